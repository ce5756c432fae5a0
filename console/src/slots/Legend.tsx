import type { Variable } from "../api/client";
import { type Hues, tint } from "./tint";

/** Names the variables beside their tints. */
export function Legend({ variables, hues }: { variables: Variable[]; hues: Hues }) {
  return (
    <ul className="flex flex-wrap gap-x-4 gap-y-1 text-xs text-muted" aria-label="Variables and their tints">
      {variables
        .filter((variable) => variable.stands_for)
        .map((variable) => (
          <li key={variable.name} className="flex items-center gap-1.5">
            <span className="swatch inline-block size-3 rounded-sm" style={tint(hues, variable.name)} />
            {variable.label || variable.name}
          </li>
        ))}
    </ul>
  );
}
