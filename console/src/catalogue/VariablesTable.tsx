import type { Variable } from "../api/client";
import { Table } from "../parts/Table";
import { huesOf, tint } from "../slots/tint";

/** What a template asks for, and what that stands for in its source. */
export function VariablesTable({ variables }: { variables: Variable[] }) {
  const hues = huesOf(variables);
  return (
    <section>
      <h2 className="text-lg">Variables</h2>
      <Table heads={["Variable", "Kind", "Stands for", "Otherwise"]}>
        {variables.map((variable) => (
          <tr key={variable.name} className="align-top">
            <td>
              <p className="font-medium">{variable.label || variable.name}</p>
              <p className="text-muted">{variable.help}</p>
            </td>
            <td className="text-muted">
              {variable.kind}
              {range(variable)}
            </td>
            <td className="font-mono text-[12.5px] [overflow-wrap:anywhere]">
              {variable.stands_for && (
                <span className="slot px-0.5" style={tint(hues, variable.name)}>
                  {variable.stands_for}
                </span>
              )}
            </td>
            <td className="break-words">{otherwise(variable)}</td>
          </tr>
        ))}
      </Table>
    </section>
  );
}

function range({ minimum, maximum, options }: Variable) {
  if (options?.length) return `: ${options.map((option) => option.value).join(", ")}`;
  if (minimum !== undefined && maximum !== undefined) return `, ${minimum} to ${maximum}`;
  if (minimum !== undefined) return `, ${minimum} or more`;
  if (maximum !== undefined) return `, ${maximum} or less`;
  return "";
}

function otherwise(variable: Variable) {
  if (variable.value) return <Expression title="computed" text={variable.value} />;
  const value = variable.default;
  const fallback =
    value === undefined ? (
      <span className="text-muted">{missing(variable)}</span>
    ) : typeof value === "string" && value.includes("${") ? (
      <code className="font-mono text-[12.5px]">{value}</code>
    ) : Array.isArray(value) ? (
      value.join(", ") || "none"
    ) : (
      String(value)
    );
  return (
    <>
      {fallback}
      {variable.ask_when && <Expression title="asked when" text={variable.ask_when} />}
    </>
  );
}

function missing({ kind, ask_when }: Variable) {
  if (kind === "id") return "made anew";
  if (kind === "secret") return "never stored";
  return ask_when ? "" : "needed";
}

function Expression({ title, text }: { title: string; text: string }) {
  return (
    <span className="block">
      <span className="text-muted">{title} </span>
      <code className="font-mono text-[12.5px]">{text}</code>
    </span>
  );
}
