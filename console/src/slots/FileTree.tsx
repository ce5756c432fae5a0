import { ChevronDown, ChevronRight, File, Folder, Link2 } from "lucide-react";
import { useMemo, useState } from "react";
import type { FileInfo } from "../api/client";
import { type Node, treeOf } from "./paths";
import { type Hues, tint } from "./tint";

interface Props {
  files: FileInfo[];
  hues: Hues;
  /** The id of the file that is open. */
  open: string | undefined;
  onOpen: (id: string) => void;
}

/** Above this, folders begin closed. */
const manyFiles = 300;

/** The files of a template or a preview, with the slots in their names tinted. */
export function FileTree({ files, hues, open, onOpen }: Props) {
  const root = useMemo(() => treeOf(files), [files]);
  return (
    <ul className="font-mono text-[12.5px] leading-6" aria-label="Files">
      {root.children.map((node) => (
        <Row
          key={node.entry?.id ?? node.path}
          node={node}
          depth={0}
          {...{ hues, open, onOpen }}
          closed={files.length > manyFiles}
        />
      ))}
    </ul>
  );
}

interface RowProps extends Omit<Props, "files"> {
  node: Node;
  depth: number;
  closed: boolean;
}

function Row({ node, depth, closed, ...rest }: RowProps) {
  const [shut, setShut] = useState(closed);
  const indent = { paddingLeft: `${depth * 14 + 6}px` };
  const row = "flex w-full items-center gap-1.5 rounded-sm pr-2 text-left hover:bg-raised";
  if (node.entry) {
    const { entry } = node;
    const isOpen = entry.id === rest.open;
    const Icon = entry.kind === "link" ? Link2 : entry.kind === "folder" ? Folder : File;
    return (
      <li>
        <button
          type="button"
          style={indent}
          aria-current={isOpen || undefined}
          disabled={entry.kind !== "file"}
          onClick={() => rest.onOpen(entry.id)}
          className={`${row} ${isOpen ? "bg-raised shadow-[inset_3px_0_0_var(--ember)]" : ""} disabled:cursor-default`}
        >
          <Icon size={13} className="shrink-0 text-muted" />
          <Name node={node} hues={rest.hues} />
          {entry.target && <span className="truncate text-muted">→ {entry.target}</span>}
          {entry.kind === "folder" && <span className="text-muted">empty</span>}
          {entry.scripted && (
            <span className="ml-auto pl-2 text-muted" title="A script of the template wrote it">
              script
            </span>
          )}
          {entry.slots > 0 && (
            <span className="ml-auto pl-2 text-muted" title={`${entry.slots} slots in it`}>
              {entry.slots}
            </span>
          )}
        </button>
      </li>
    );
  }
  const Chevron = shut ? ChevronRight : ChevronDown;
  return (
    <li>
      <button
        type="button"
        style={indent}
        aria-expanded={!shut}
        onClick={() => setShut(!shut)}
        className={row}
      >
        <Chevron size={13} className="shrink-0 text-muted" />
        <Name node={node} hues={rest.hues} />
      </button>
      {!shut && (
        <ul>
          {node.children.map((child) => (
            <Row
              key={child.entry?.id ?? child.path}
              node={child}
              depth={depth + 1}
              closed={closed}
              {...rest}
            />
          ))}
        </ul>
      )}
    </li>
  );
}

function Name({ node, hues }: { node: Node; hues: Hues }) {
  return (
    <span className="truncate" title={node.path}>
      {node.pieces.map((piece, i) =>
        piece.variable ? (
          <span
            key={i}
            className="slot"
            style={tint(hues, piece.variable)}
            title={`${piece.variable} · ${piece.form}`}
          >
            {piece.text}
          </span>
        ) : (
          piece.text
        ),
      )}
    </span>
  );
}
