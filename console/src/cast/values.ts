import type { Preset, Preview, Reference, Value, Values, Variable } from "../api/client";

/** What someone has put into the form; what is not there is left to the template. */
export type Field = string | boolean | string[];
export type Fields = Record<string, Field | undefined>;

/** The variables to show questions for. Ids and computed ones are never asked for. */
export function asked(variables: Variable[], preview: Preview | undefined): Variable[] {
  return variables.filter(
    ({ name, kind, value, ask_when }) =>
      kind !== "id" && !value && (preview ? preview.asked[name] : ask_when === undefined),
  );
}

export function isList({ kind }: Variable): boolean {
  return kind === "list" || kind === "choices";
}

/** The form as the address fills it. */
export function fieldsFrom(variables: Variable[], search: URLSearchParams): Fields {
  const fields: Fields = {};
  for (const variable of variables) {
    const text = search.get(variable.name);
    if (text === null || variable.kind === "secret") continue;
    if (variable.kind === "boolean") fields[variable.name] = text === "true";
    else if (isList(variable)) fields[variable.name] = search.getAll(variable.name).filter(Boolean);
    else fields[variable.name] = text;
  }
  return fields;
}

/** The values to send: what was put in, in the JSON types of the kinds. */
export function valuesOf(variables: Variable[], fields: Fields): Values {
  const values: Values = {};
  for (const variable of variables) {
    const field = fields[variable.name];
    if (field === undefined || (field === "" && variable.kind !== "text")) continue;
    values[variable.name] = Array.isArray(field)
      ? field.map((item) => (variable.of === "integer" ? numberOr(item) : item))
      : variable.kind === "integer" || variable.kind === "number"
        ? numberOr(String(field))
        : field;
  }
  return values;
}

/** A number where the text is one; the service says what is wrong with the rest. */
function numberOr<T extends Value>(text: string): T {
  return (/^-?\d{1,15}(\.\d+)?$/.test(text) ? Number(text) : text) as T;
}

/** What the template itself gives for a variable, as it would be put in; undefined for nothing. */
export function given(
  variable: Variable,
  preset: Preset | undefined,
  preview: Preview | undefined,
): Field | undefined {
  const fixed = preset?.values[variable.name] ?? variable.default;
  if (fixed === undefined) return undefined;
  const value = preview?.values[variable.name] ?? fixed;
  if (Array.isArray(value)) return value.map(String);
  return typeof value === "boolean" ? value : String(value);
}

/** What must be said of the values: everything that was put in, but no secret. */
function said(variables: Variable[], values: Values): [string, Value][] {
  return variables.flatMap((variable): [string, Value][] => {
    const value = values[variable.name];
    return value === undefined || variable.kind === "secret" ? [] : [[variable.name, value]];
  });
}

/** The address that carries the values. */
export function linkTo(
  reference: Reference,
  variables: Variable[],
  values: Values,
  preset: string | undefined,
): string {
  const search = new URLSearchParams([["version", reference.version]]);
  if (preset) search.set("preset", preset);
  for (const [name, value] of said(variables, values)) {
    if (!Array.isArray(value)) search.append(name, String(value));
    else if (value.length === 0) search.append(name, "");
    else value.forEach((item) => search.append(name, String(item)));
  }
  return `/cast/${reference.team}/${reference.name}?${search}`;
}

/** The command line that casts the same project. */
export function commandFor(
  reference: Reference,
  variables: Variable[],
  values: Values,
  preset: string | undefined,
  folder: string,
): string {
  const secrets = variables
    .filter(({ kind, name }) => kind === "secret" && values[name])
    .map(({ name }) => `IRONCAST_SECRET_${name.toUpperCase()}=…`);
  const assignments = said(variables, values).map(([name, value]) => `${name}=${quoted(typed(value))}`);
  const target = `${reference.team}/${reference.name}@${reference.version}`;
  const chosen = preset ? ["--preset", preset] : [];
  return [...secrets, "ironcast cast", target, folder, ...assignments, ...chosen, "--no-ask"].join(" ");
}

/** A value as it is typed on the command line. */
function typed(value: Value): string {
  if (!Array.isArray(value)) return String(value);
  return value.some((item) => /[,[\]]|^\s|\s$/.test(String(item))) ? JSON.stringify(value) : value.join(",");
}

/** A word as a POSIX shell reads it back. */
function quoted(text: string): string {
  return /^[\w@%+=:,./-]+$/.test(text) ? text : `'${text.replaceAll("'", `'\\''`)}'`;
}
