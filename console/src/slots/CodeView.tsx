import {
  defaultHighlightStyle,
  HighlightStyle,
  LanguageDescription,
  syntaxHighlighting,
} from "@codemirror/language";
import { languages } from "@codemirror/language-data";
import { Compartment, EditorState, type Range, StateEffect, StateField } from "@codemirror/state";
import { Decoration, type DecorationSet, EditorView, hoverTooltip, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useRef } from "react";
import type { FileText, MarkedRegion, Piece, Variable } from "../api/client";
import type { Hues } from "./tint";

interface Props {
  file: FileText;
  variables: Variable[];
  hues: Hues;
}

/** Where a slot stands in the text that is shown. */
interface Span {
  from: number;
  to: number;
  piece: Piece;
}

interface Shown {
  spans: Span[];
  hues: Hues;
  regions: MarkedRegion[];
}

const setShown = StateEffect.define<Shown>();

/** The slots of the shown text, as spans and as the marks that tint them. */
const slots = StateField.define<{ spans: Span[]; marks: DecorationSet }>({
  create: () => ({ spans: [], marks: Decoration.none }),
  update(value, transaction) {
    for (const effect of transaction.effects) {
      if (effect.is(setShown)) {
        const { spans, hues, regions } = effect.value;
        const marks: Range<Decoration>[] = spans.map(({ from, to, piece }) =>
          piece.mark
            ? Decoration.mark({ class: "ironmark" }).range(from, to)
            : Decoration.mark({
                class: "slot",
                attributes: {
                  style: `--hue: ${hues.get(piece.variable ?? "") ?? 0}`,
                  "data-variable": piece.variable ?? "",
                },
              }).range(from, to),
        );
        const { doc } = transaction.state;
        for (const { from, to, effect: title } of regions) {
          for (let line = from; line <= Math.min(to, doc.lines); line++) {
            const look = Decoration.line({ class: "marked-line", attributes: { title } });
            marks.push(look.range(doc.line(line).from));
          }
        }
        return { spans: spans.filter(({ piece }) => !piece.mark), marks: Decoration.set(marks, true) };
      }
    }
    return value;
  },
  provide: (field) => EditorView.decorations.from(field, (value) => value.marks),
});

function tooltips(variables: () => Variable[]) {
  return hoverTooltip((view, position) => {
    const span = view.state.field(slots).spans.find(({ from, to }) => from <= position && position <= to);
    if (!span) return null;
    const { piece } = span;
    const variable = variables().find(({ name }) => name === piece.variable);
    return {
      pos: span.from,
      end: span.to,
      above: true,
      create: () => {
        const dom = document.createElement("div");
        dom.className = "px-3 py-2 text-xs";
        const title = document.createElement("div");
        title.className = "font-semibold";
        title.textContent = variable?.label || piece.variable || "";
        const rule = document.createElement("div");
        rule.className = "text-muted";
        rule.textContent = `${piece.form?.replace("_", " ")}${piece.guessed ? ", guessed from its neighbours" : ""}; stands for ${piece.literal}`;
        dom.append(title, rule);
        return { dom };
      },
    };
  });
}

const look = EditorView.theme({
  "&": { height: "100%", fontSize: "12.5px", backgroundColor: "transparent", color: "var(--text)" },
  ".cm-scroller": { fontFamily: "var(--font-mono)", lineHeight: "1.6" },
  ".cm-gutters": { backgroundColor: "transparent", color: "var(--muted)", border: "none" },
  ".cm-tooltip": { backgroundColor: "var(--raised)", border: "1px solid var(--line)", borderRadius: "4px" },
  "&.cm-focused": { outline: "2px solid var(--ember)", outlineOffset: "-2px" },
});

// Quiet colours, so that the slots are what stands out.
const quiet = HighlightStyle.define([
  { tag: [tags.comment, tags.meta], color: "var(--muted)", fontStyle: "italic" },
  { tag: [tags.keyword, tags.heading, tags.definitionKeyword], fontWeight: "600" },
]);

/** A text, read-only, with its slots tinted in place. */
export function CodeView({ file, variables, hues }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(null);
  const language = useRef(new Compartment());
  const latest = useRef(variables);
  latest.current = variables;

  useEffect(() => {
    view.current = new EditorView({
      parent: host.current ?? undefined,
      extensions: [
        EditorState.readOnly.of(true),
        EditorView.editable.of(false),
        EditorView.contentAttributes.of({ tabindex: "0", "aria-label": "Content of the file" }),
        lineNumbers(),
        slots,
        tooltips(() => latest.current),
        language.current.of([]),
        syntaxHighlighting(quiet),
        syntaxHighlighting(defaultHighlightStyle, { fallback: true }),
        look,
      ],
    });
    return () => view.current?.destroy();
  }, []);

  useEffect(() => {
    const { text, spans } = spansOf(file.text);
    view.current?.dispatch({
      changes: { from: 0, to: view.current.state.doc.length, insert: text },
      // Marks rule lines of the source, which a cast does not have any more.
      effects: setShown.of({ spans, hues, regions: spans.some(({ piece }) => piece.mark) ? file.marks : [] }),
    });
  }, [file.text, file.marks, hues]);

  useEffect(() => {
    let current = true;
    void LanguageDescription.matchFilename(languages, file.path)
      ?.load()
      .then((support) => {
        if (current) view.current?.dispatch({ effects: language.current.reconfigure(support) });
      });
    if (!LanguageDescription.matchFilename(languages, file.path)) {
      view.current?.dispatch({ effects: language.current.reconfigure([]) });
    }
    return () => {
      current = false;
    };
  }, [file.path]);

  return <div ref={host} className="h-full min-h-0 overflow-hidden" data-testid="code" />;
}

/** Joins pieces into a text. Positions count line breaks as the editor does, as one. */
function spansOf(pieces: Piece[]): { text: string; spans: Span[] } {
  let text = "";
  const spans: Span[] = [];
  for (const piece of pieces) {
    const from = text.length;
    text += piece.text.replace(/\r\n?/g, "\n");
    if ((piece.variable || piece.mark) && text.length > from) spans.push({ from, to: text.length, piece });
  }
  return { text, spans };
}
