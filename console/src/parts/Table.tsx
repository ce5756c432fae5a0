import type { ReactNode } from "react";

interface Props {
  /** The columns' titles; one that begins with ">" is aligned to the right. */
  heads: string[];
  /** The rows, as tr elements. */
  children: ReactNode;
}

/** A quiet table: a line below each row, and as wide as there is room. */
export function Table({ heads, children }: Props) {
  return (
    <table className="mt-3 w-full border-collapse text-sm [&_tbody_tr]:border-b [&_tbody_tr]:border-line [&_td]:py-2 [&_td]:pr-4 [&_td:last-child]:pr-0">
      <thead>
        <tr className="border-b border-line text-muted">
          {heads.map((head) => (
            <th
              key={head}
              className={`py-1.5 pr-4 font-medium last:pr-0 ${head.startsWith(">") ? "text-right" : "text-left"}`}
            >
              {head.replace(/^>/, "")}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </table>
  );
}
