import type { Reference, Values, Variable } from "../api/client";

/** What stands in the form: a text for every variable, and truth for booleans. */
export type Fields = Record<string, string | boolean>;

/** Ids are made by the service, and not asked for. */
export function asked(variables: Variable[]): Variable[] {
  return variables.filter((variable) => variable.kind !== "id");
}

/** The form as the address fills it, else the defaults. */
export function fieldsFrom(variables: Variable[], search: URLSearchParams): Fields {
  const fields: Fields = {};
  for (const variable of asked(variables)) {
    const text = search.get(variable.name) ?? variable.default ?? "";
    fields[variable.name] = variable.kind === "boolean" ? text.toLowerCase() === "true" : text;
  }
  return fields;
}

/** The values to send: what is left empty and needed is left out. */
export function valuesOf(variables: Variable[], fields: Fields): Values {
  const values: Values = {};
  for (const variable of asked(variables)) {
    const field = fields[variable.name];
    if (field === undefined || (field === "" && (variable.kind !== "text" || variable.default === undefined)))
      continue;
    values[variable.name] =
      variable.kind === "integer" && typeof field === "string" && /^-?\d{1,15}$/.test(field)
        ? Number(field)
        : field;
  }
  return values;
}

/** The values that differ from the defaults, which are all that must be said. */
export function changed(variables: Variable[], values: Values): [string, string][] {
  return asked(variables).flatMap((variable): [string, string][] => {
    const value = values[variable.name];
    return value === undefined || String(value) === variable.default ? [] : [[variable.name, String(value)]];
  });
}

/** The address that carries the values. */
export function linkTo(reference: Reference, variables: Variable[], values: Values): string {
  const search = new URLSearchParams([["version", reference.version], ...changed(variables, values)]);
  return `/cast/${reference.team}/${reference.name}?${search}`;
}

/** The command line that casts the same project. */
export function commandFor(
  reference: Reference,
  variables: Variable[],
  values: Values,
  folder: string,
): string {
  const assignments = changed(variables, values).map(([name, value]) => `${name}=${quoted(value)}`);
  const target = `${reference.team}/${reference.name}@${reference.version}`;
  return ["ironcast cast", target, folder, ...assignments, "--no-ask"].join(" ");
}

/** A word as a POSIX shell reads it back. */
function quoted(text: string): string {
  return /^[\w@%+=:,./-]+$/.test(text) ? text : `'${text.replaceAll("'", `'\\''`)}'`;
}
