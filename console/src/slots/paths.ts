import type { FileInfo, Piece } from "../api/client";

/** A folder, or a leaf with its entry, in a tree of paths. */
export interface Node {
  name: string;
  pieces: Piece[]; // the name, cut at its slots
  path: string;
  entry?: FileInfo;
  children: Node[];
}

/** Arranges entries, which may come in any order, into folders. */
export function treeOf(entries: FileInfo[]): Node {
  const root: Node = { name: "", pieces: [], path: "", children: [] };
  for (const entry of entries) {
    let at = root;
    const parts = splitPieces(entry.pieces);
    parts.forEach((pieces, depth) => {
      const name = pieces.map((piece) => piece.text).join("");
      const last = depth === parts.length - 1;
      let child = at.children.find((node) => node.name === name && !node.entry);
      if (!child || last) {
        child = { name, pieces, path: at.path ? `${at.path}/${name}` : name, children: [] };
        if (last) child.entry = entry;
        at.children.push(child);
      }
      at = child;
    });
  }
  sort(root);
  return root;
}

/** Cuts a path's pieces at its slashes, a slot that holds one included. */
function splitPieces(pieces: Piece[]): Piece[][] {
  const parts: Piece[][] = [[]];
  for (const piece of pieces) {
    piece.text.split("/").forEach((text, i) => {
      if (i > 0) parts.push([]);
      if (text) parts[parts.length - 1]?.push({ ...piece, text });
    });
  }
  return parts;
}

/** Folders first, then by name. */
function sort(node: Node) {
  const rank = (child: Node) => (child.entry && child.entry.kind !== "folder" ? 1 : 0);
  node.children.sort((a, b) => rank(a) - rank(b) || (a.name < b.name ? -1 : 1));
  node.children.forEach(sort);
}
