import type { FileText, Variable } from "../api/client";
import { CodeView } from "./CodeView";
import type { Hues } from "./tint";

interface Props {
  file: FileText | undefined;
  variables: Variable[];
  hues: Hues;
}

/** One file: its path, what is particular about it, and its text. */
export function FileView({ file, variables, hues }: Props) {
  if (!file) {
    return <p className="p-6 text-muted">Choose a file to read it.</p>;
  }
  const notes = [
    file.executable && "executable",
    file.verbatim && "copied as it is",
    file.scripted && "written by a script",
    file.marks.length > 0 && `${file.marks.length} ${file.marks.length === 1 ? "mark" : "marks"}`,
    file.slots > 0 && `${file.slots} ${file.slots === 1 ? "slot" : "slots"}`,
    `${file.size.toLocaleString("en")} bytes`,
  ].filter(Boolean);
  return (
    <div className="flex h-full min-h-0 flex-col">
      <div className="flex h-10 shrink-0 items-center justify-between gap-4 border-b border-line px-4">
        <h3 className="truncate font-mono text-[13px] font-medium" title={file.path}>
          {file.path}
        </h3>
        <span className="shrink-0 text-xs text-muted">{notes.join(" · ")}</span>
      </div>
      {(file.rules.length > 0 || file.item) && (
        <ul className="border-b border-line bg-raised px-4 py-1.5 text-xs" aria-label="Rules for this file">
          {file.item && <li>Here for {file.item}.</li>}
          {file.rules.map((rule) => (
            <li key={rule.rule + rule.effect} className="font-mono">
              {rule.effect}
            </li>
          ))}
        </ul>
      )}
      {file.binary ? (
        <p className="p-6 text-muted">This file is no text. It is copied as it is.</p>
      ) : (
        <div className="min-h-0 flex-1">
          <CodeView file={file} variables={variables} hues={hues} />
        </div>
      )}
      {file.truncated && (
        <p className="border-t border-line px-4 py-2 text-xs text-muted">
          Only the beginning of this file is shown.
        </p>
      )}
    </div>
  );
}
