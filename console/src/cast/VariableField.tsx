import { Select, Switch } from "radix-ui";
import { Check, ChevronDown } from "lucide-react";
import { type Control, Controller } from "react-hook-form";
import type { Variable } from "../api/client";
import { type Hues, tint } from "../slots/tint";
import type { Fields } from "./values";

interface Props {
  variable: Variable;
  control: Control<Fields>;
  hues: Hues;
  /** Why the value cannot be cast; none while it can, or while it is untouched. */
  problem: string | undefined;
}

const box = "mt-1 w-full rounded border bg-raised px-3 py-1.5 placeholder:text-muted/80";

/** The question for one variable, in the form that its kind needs. */
export function VariableField({ variable, control, hues, problem }: Props) {
  const id = `variable-${variable.name}`;
  const edge = problem ? "border-bad" : "border-line";
  const described = { "aria-describedby": `${id}-about`, "aria-invalid": problem ? true : undefined };
  return (
    <div>
      <div className="flex items-center gap-2">
        <span className="swatch inline-block size-3 shrink-0 rounded-sm" style={tint(hues, variable.name)} />
        <label htmlFor={id} className="font-medium">
          {variable.label || variable.name}
        </label>
        {variable.default === undefined && variable.kind !== "boolean" && (
          <span className="text-xs text-muted">needed</span>
        )}
      </div>
      <Controller
        control={control}
        name={variable.name}
        render={({ field }) => {
          if (variable.kind === "boolean") {
            return (
              <Switch.Root
                id={id}
                checked={field.value === true}
                onCheckedChange={field.onChange}
                className="mt-1.5 block h-6 w-11 rounded-full border border-line bg-raised data-[state=checked]:bg-ember"
                {...described}
              >
                <Switch.Thumb className="block size-4 translate-x-1 rounded-full bg-muted transition-transform data-[state=checked]:translate-x-6 data-[state=checked]:bg-on-ember" />
              </Switch.Root>
            );
          }
          if (variable.kind === "choice") {
            return (
              <Choice
                id={id}
                variable={variable}
                value={String(field.value)}
                onChange={field.onChange}
                edge={edge}
              />
            );
          }
          const common = {
            ...field,
            value: String(field.value),
            id,
            className: `${box} ${edge}`,
            ...described,
          };
          if (variable.lines) return <textarea rows={3} {...common} />;
          return (
            <input
              type="text"
              inputMode={variable.kind === "integer" ? "numeric" : undefined}
              placeholder={
                variable.examples?.length ? `such as ${variable.examples.join(" or ")}` : undefined
              }
              autoComplete="off"
              spellCheck={false}
              {...common}
            />
          );
        }}
      />
      <p id={`${id}-about`} className={`mt-1 text-xs ${problem ? "text-bad" : "text-muted"}`}>
        {problem ?? variable.help}
      </p>
    </div>
  );
}

interface ChoiceProps {
  id: string;
  variable: Variable;
  value: string;
  onChange: (value: string) => void;
  edge: string;
}

function Choice({ id, variable, value, onChange, edge }: ChoiceProps) {
  return (
    <Select.Root value={value} onValueChange={onChange}>
      <Select.Trigger id={id} className={`${box} ${edge} flex items-center justify-between text-left`}>
        <Select.Value placeholder="Choose" />
        <ChevronDown size={16} className="text-muted" />
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={4}
          className="z-50 min-w-(--radix-select-trigger-width) rounded border border-line bg-raised p-1 shadow-lg"
        >
          <Select.Viewport>
            {variable.options?.map((option) => (
              <Select.Item
                key={option.value}
                value={option.value}
                className="flex cursor-pointer items-center justify-between gap-6 rounded-sm px-2.5 py-1.5 outline-none data-[highlighted]:bg-ember-soft"
              >
                <Select.ItemText>{option.label}</Select.ItemText>
                <Select.ItemIndicator>
                  <Check size={15} />
                </Select.ItemIndicator>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
