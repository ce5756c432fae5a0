import type { ButtonHTMLAttributes } from "react";

const looks = {
  ember: "bg-ember text-on-ember hover:brightness-110 border-transparent",
  plain: "bg-raised text-text border-line hover:border-muted",
};

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: keyof typeof looks;
}

export function Button({ look = "plain", className = "", type = "button", ...rest }: Props) {
  return (
    <button
      type={type}
      className={`inline-flex items-center justify-center gap-2 rounded border px-3 py-1.5 text-sm font-medium whitespace-nowrap disabled:cursor-not-allowed disabled:opacity-55 ${looks[look]} ${className}`}
      {...rest}
    />
  );
}
