import type { Variable } from "../api/client";
import { huesOf, tint } from "../slots/tint";

/** What a template asks for, and what that stands for in its source. */
export function VariablesTable({ variables }: { variables: Variable[] }) {
  const hues = huesOf(variables);
  return (
    <section>
      <h2 className="text-lg">Variables</h2>
      <table className="mt-3 w-full border-collapse text-sm">
        <thead>
          <tr className="border-b border-line text-left text-muted">
            <th className="py-1.5 pr-4 font-medium">Variable</th>
            <th className="py-1.5 pr-4 font-medium">Kind</th>
            <th className="py-1.5 pr-4 font-medium">Stands for</th>
            <th className="py-1.5 font-medium">Otherwise</th>
          </tr>
        </thead>
        <tbody>
          {variables.map((variable) => (
            <tr key={variable.name} className="border-b border-line align-top">
              <td className="py-2 pr-4">
                <p className="font-medium">{variable.label || variable.name}</p>
                <p className="text-muted">{variable.help}</p>
              </td>
              <td className="py-2 pr-4 text-muted">
                {variable.kind}
                {range(variable)}
              </td>
              <td className="py-2 pr-4 font-mono text-[12.5px] [overflow-wrap:anywhere]">
                {variable.stands_for && (
                  <span className="slot px-0.5" style={tint(hues, variable.name)}>
                    {variable.stands_for}
                  </span>
                )}
              </td>
              <td className="py-2 break-words">{otherwise(variable)}</td>
            </tr>
          ))}
        </tbody>
      </table>
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
