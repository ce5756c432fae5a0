import { Search } from "lucide-react";
import { useEffect, useState } from "react";
import { Link, useNavigationType, useSearchParams } from "react-router";
import type { Template } from "../api/client";
import { useTemplates } from "../api/queries";
import { Empty, Failure, Loading } from "../parts/Notice";

/** All templates, found by words or by label. Both stand in the address. */
export function CataloguePage() {
  const [search, setSearch] = useSearchParams();
  const words = search.get("words") ?? "";
  const label = search.get("label") ?? "";
  const templates = useTemplates(words, label);

  // The address follows the field while someone types, since it may lag behind
  // the keys; the field follows the address when someone goes back.
  const [typed, setTyped] = useState(words);
  const navigation = useNavigationType();
  useEffect(() => {
    if (navigation === "POP") setTyped(words);
  }, [navigation, words]);

  const set = (key: string, value: string) =>
    setSearch(
      (before) => {
        const after = new URLSearchParams(before);
        if (value) after.set(key, value);
        else after.delete(key);
        return after;
      },
      { replace: true },
    );

  const found = templates.data;
  return (
    <div className="mx-auto max-w-5xl px-6 py-8">
      <h1 className="text-2xl">Catalogue</h1>
      <p className="mt-1 text-muted">
        Templates to cast a new project from, each proven before it was published.
      </p>
      <label className="relative mt-5 block">
        <span className="sr-only">Find templates by words</span>
        <Search size={18} className="absolute top-1/2 left-3.5 -translate-y-1/2 text-muted" />
        <input
          type="search"
          value={typed}
          onChange={(event) => {
            setTyped(event.target.value);
            set("words", event.target.value);
          }}
          placeholder="Find by words: a name, a team, what it does"
          className="w-full rounded border border-line bg-panel py-2.5 pr-4 pl-11 placeholder:text-muted"
        />
      </label>
      {label && (
        <p className="mt-3 text-sm text-muted">
          With the label <strong className="text-text">{label}</strong>{" "}
          <button type="button" onClick={() => set("label", "")} className="ml-1 text-ember underline">
            show all
          </button>
        </p>
      )}
      <div className="mt-6">
        {templates.isError && <Failure error={templates.error} />}
        {templates.isPending && <Loading />}
        {found && found.total === 0 && (words || label) && (
          <Empty title="No template has all of these words.">Try fewer of them.</Empty>
        )}
        {found && found.total === 0 && !words && !label && (
          <Empty title="The catalogue is empty.">
            Publish a template from its folder: <code className="font-mono">ironcast publish DIR</code>
          </Empty>
        )}
        {found && found.total > 0 && (
          <>
            <ul className="divide-y divide-line rounded border border-line bg-panel">
              {found.items.map((template) => (
                <Row
                  key={`${template.team}/${template.name}`}
                  template={template}
                  onLabel={(l) => set("label", l)}
                />
              ))}
            </ul>
            <p className="mt-3 text-sm text-muted" role="status">
              {found.total} {found.total === 1 ? "template" : "templates"}
            </p>
          </>
        )}
      </div>
    </div>
  );
}

function Row({ template, onLabel }: { template: Template; onLabel: (label: string) => void }) {
  return (
    <li className="relative grid grid-cols-[1fr_auto] gap-x-6 px-5 py-4 hover:bg-raised">
      <div className="min-w-0">
        <h2 className="text-lg">
          <Link
            to={`/catalogue/${template.team}/${template.name}`}
            className="after:absolute after:inset-0 hover:text-ember"
          >
            {template.title}
          </Link>
        </h2>
        <p className="mt-0.5 text-muted">{template.summary}</p>
        <ul className="mt-2 flex flex-wrap gap-1.5">
          {template.labels.map((label) => (
            <li key={label}>
              <button
                type="button"
                onClick={() => onLabel(label)}
                className="relative z-10 rounded-full border border-line px-2.5 text-xs text-muted hover:border-ember hover:text-ember"
              >
                {label}
              </button>
            </li>
          ))}
        </ul>
      </div>
      <div className="text-right text-sm text-muted">
        <p className="font-mono text-text">{template.version}</p>
        <p>{template.team}</p>
        <p>{new Date(template.updated).toLocaleDateString("en-GB", { dateStyle: "medium" })}</p>
      </div>
    </li>
  );
}
