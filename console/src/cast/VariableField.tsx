import { Check } from "lucide-react";
import { Checkbox, Switch } from "radix-ui";
import type { Variable } from "../api/client";
import { Select } from "../parts/Select";
import { type Hues, tint } from "../slots/tint";
import { type Field, isList } from "./values";

interface Props {
  variable: Variable;
  /** What was put in; undefined while it is left to the template. */
  field: Field | undefined;
  /** What the template gives; undefined where it gives nothing. */
  given: Field | undefined;
  onChange: (field: Field | undefined) => void;
  hues: Hues;
  /** Why the value cannot be cast; none while it can, or while it is untouched. */
  problem: string | undefined;
}

const box = "mt-1 w-full rounded border bg-raised px-3 py-1.5 placeholder:text-muted/80";

/** The question for one variable, in the form that its kind needs. */
export function VariableField({ variable, field, given, onChange, hues, problem }: Props) {
  const id = `variable-${variable.name}`;
  const needed = given === undefined && !isList(variable);
  return (
    <div>
      <div className="flex items-center gap-2">
        <span className="swatch inline-block size-3 shrink-0 rounded-sm" style={tint(hues, variable.name)} />
        <label htmlFor={id} id={`${id}-label`} className="font-medium">
          {variable.label || variable.name}
        </label>
        {needed && <span className="text-xs text-muted">needed</span>}
        {field !== undefined && given !== undefined && (
          <button
            type="button"
            className="ml-auto text-xs text-muted underline hover:text-ember"
            onClick={() => onChange(undefined)}
            aria-label={`Take the default for ${variable.label || variable.name}`}
          >
            default
          </button>
        )}
      </div>
      <Control {...{ id, variable, onChange, problem }} value={field ?? given} />
      <p id={`${id}-about`} className={`mt-1 text-xs ${problem ? "text-bad" : "text-muted"}`}>
        {problem ?? about(variable)}
      </p>
    </div>
  );
}

function about(variable: Variable): string | undefined {
  if (variable.help) return variable.help;
  if (variable.kind === "list") return "One on each line.";
  if (variable.kind === "secret") return "Written into the project, and kept nowhere else.";
  return undefined;
}

interface ControlProps {
  id: string;
  variable: Variable;
  value: Field | undefined;
  onChange: (field: Field | undefined) => void;
  problem: string | undefined;
}

function Control({ id, variable, value, onChange, problem }: ControlProps) {
  const described = { "aria-describedby": `${id}-about`, "aria-invalid": problem ? true : undefined };
  const look = `${box} ${problem ? "border-bad" : "border-line"}`;
  switch (variable.kind) {
    case "boolean":
      return (
        <Switch.Root
          id={id}
          checked={value === true}
          onCheckedChange={onChange}
          className="mt-1.5 block h-6 w-11 rounded-full border border-line bg-raised data-[state=checked]:bg-ember"
          {...described}
        >
          <Switch.Thumb className="block size-4 translate-x-1 rounded-full bg-muted transition-transform data-[state=checked]:translate-x-6 data-[state=checked]:bg-on-ember" />
        </Switch.Root>
      );
    case "choice":
      return (
        <Select
          id={id}
          options={variable.options ?? []}
          value={String(value ?? "")}
          onChange={onChange}
          className={look}
          {...described}
        />
      );
    case "choices":
      return <Several {...{ id, variable, onChange }} taken={Array.isArray(value) ? value : []} />;
  }
  const text = Array.isArray(value) ? value.join("\n") : String(value ?? "");
  const common = {
    id,
    name: variable.name,
    value: text,
    className: look,
    placeholder: variable.examples?.length
      ? `such as ${variable.examples.map(String).join(" or ")}`
      : undefined,
    ...described,
  };
  if (variable.kind === "list") {
    return (
      <textarea
        rows={Math.min(Math.max(text.split("\n").length, 2), 6)}
        {...common}
        onChange={(event) => onChange(event.target.value === "" ? [] : event.target.value.split("\n"))}
      />
    );
  }
  const change = (event: { target: { value: string } }) => onChange(event.target.value);
  if (variable.lines) return <textarea rows={3} {...common} onChange={change} />;
  return (
    <input
      type={variable.kind === "secret" ? "password" : "text"}
      inputMode={variable.kind === "integer" || variable.kind === "number" ? "decimal" : undefined}
      autoComplete={variable.kind === "secret" ? "new-password" : "off"}
      spellCheck={false}
      {...common}
      onChange={change}
    />
  );
}

interface SeveralProps {
  id: string;
  variable: Variable;
  taken: string[];
  onChange: (taken: string[]) => void;
}

/** Any of several options, in the order of the template. */
function Several({ id, variable, taken, onChange }: SeveralProps) {
  const options = variable.options ?? [];
  const change = (option: string, is: boolean) =>
    onChange(
      options.map(({ value }) => value).filter((value) => (value === option ? is : taken.includes(value))),
    );
  return (
    <div role="group" aria-labelledby={`${id}-label`} className="mt-1.5 space-y-1.5">
      {options.map((option, i) => (
        <div key={option.value} className="flex items-center gap-2">
          <Checkbox.Root
            id={i === 0 ? id : `${id}-${option.value}`}
            checked={taken.includes(option.value)}
            onCheckedChange={(is) => change(option.value, is === true)}
            aria-label={option.label}
            className="flex size-5 items-center justify-center rounded-sm border border-line bg-raised data-[state=checked]:border-transparent data-[state=checked]:bg-ember"
          >
            <Checkbox.Indicator>
              <Check size={14} className="text-on-ember" />
            </Checkbox.Indicator>
          </Checkbox.Root>
          <span className="text-sm">{option.label}</span>
        </div>
      ))}
    </div>
  );
}
