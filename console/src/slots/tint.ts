import type { CSSProperties } from "react";
import type { Variable } from "../api/client";

const hues = [50, 235, 150, 330, 195, 285, 100, 15, 260, 125, 350, 75];

/** The hue of each variable, by name. Variables keep theirs on every page. */
export type Hues = Map<string, number>;

export function huesOf(variables: Variable[]): Hues {
  return new Map(variables.map((variable, i) => [variable.name, hues[i % hues.length] ?? 0]));
}

export function tint(allHues: Hues, variable: string | undefined): CSSProperties {
  return { "--hue": String(allHues.get(variable ?? "") ?? 0) } as CSSProperties;
}
