import { Check, ChevronDown } from "lucide-react";
import { Select as Radix } from "radix-ui";

interface Props {
  id: string;
  value: string;
  options: { value: string; label: string }[];
  onChange: (value: string) => void;
  className?: string;
  "aria-describedby"?: string;
  "aria-invalid"?: boolean | undefined;
}

/** One of several options. */
export function Select({ id, value, options, onChange, className = "", ...aria }: Props) {
  return (
    <Radix.Root value={value} onValueChange={onChange}>
      <Radix.Trigger id={id} className={`${className} flex items-center justify-between text-left`} {...aria}>
        <Radix.Value placeholder="Choose" />
        <ChevronDown size={16} className="shrink-0 text-muted" />
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          position="popper"
          sideOffset={4}
          className="z-50 min-w-(--radix-select-trigger-width) rounded border border-line bg-raised p-1 shadow-lg"
        >
          <Radix.Viewport>
            {options.map((option) => (
              <Radix.Item
                key={option.value}
                value={option.value}
                className="flex cursor-pointer items-center justify-between gap-6 rounded-sm px-2.5 py-1.5 outline-none data-[highlighted]:bg-ember-soft"
              >
                <Radix.ItemText>{option.label}</Radix.ItemText>
                <Radix.ItemIndicator>
                  <Check size={15} />
                </Radix.ItemIndicator>
              </Radix.Item>
            ))}
          </Radix.Viewport>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
