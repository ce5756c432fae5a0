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
  if (variable.default !== undefined) return variable.default;
  return <span className="text-muted">{variable.kind === "id" ? "made anew" : "needed"}</span>;
}
