import { Hammer } from "lucide-react";
import { Tabs } from "radix-ui";
import type { ReactNode } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import Markdown from "react-markdown";
import remarkGfm from "remark-gfm";
import type { Reference } from "../api/client";
import { useVersion, useVersions } from "../api/queries";
import { Failure, Loading } from "../parts/Notice";
import { FilesTab } from "./FilesTab";
import { PresetsTable } from "./PresetsTable";
import { VariablesTable } from "./VariablesTable";
import { VersionsTable } from "./VersionsTable";

/** One template: what it is, its variables, its versions and its files. */
export function TemplatePage() {
  const { team = "", name = "" } = useParams();
  const [search, setSearch] = useSearchParams();
  const reference: Reference = { team, name, version: search.get("version") ?? "latest" };
  const version = useVersion(reference);
  const versions = useVersions(team, name);

  if (version.isError) {
    return (
      <div className="mx-auto max-w-5xl px-6 py-8">
        <Failure error={version.error} />
        <p className="mt-4">
          <Link to="/catalogue" className="text-ember underline">
            Back to the catalogue
          </Link>
        </p>
      </div>
    );
  }
  if (version.isPending) return <Loading />;
  const detail = version.data;
  const exact = { ...reference, version: detail.version };
  const show = (tab: string) =>
    setSearch((before) => {
      const after = new URLSearchParams(before);
      after.set("tab", tab);
      return after;
    });
  return (
    <div className="mx-auto max-w-7xl px-6 py-7">
      <header className="flex items-start justify-between gap-8">
        <div className="min-w-0">
          <p className="text-sm text-muted">
            <Link to="/catalogue" className="hover:text-ember">
              Catalogue
            </Link>{" "}
            / {team} / {name}
          </p>
          <h1 className="mt-1 text-2xl">
            {detail.title}{" "}
            <span className="ml-1 font-mono text-base font-normal text-muted">{detail.version}</span>
          </h1>
          <p className="mt-1 max-w-2xl text-muted">{detail.summary}</p>
        </div>
        <Link
          to={`/cast/${team}/${name}?version=${encodeURIComponent(detail.version)}`}
          className="inline-flex shrink-0 items-center gap-2 rounded bg-ember px-4 py-2 font-medium text-on-ember hover:brightness-110"
        >
          <Hammer size={17} /> Cast a project
        </Link>
      </header>
      <Tabs.Root value={search.get("tab") ?? "about"} onValueChange={show} className="mt-6">
        <Tabs.List className="flex gap-6 border-b border-line" aria-label="About this template">
          {[
            ["about", "About"],
            ["files", `Files (${detail.files})`],
          ].map(([value, title]) => (
            <Tabs.Trigger
              key={value}
              value={value ?? ""}
              className="-mb-px border-b-2 border-transparent px-1 pb-2 text-muted data-[state=active]:border-ember data-[state=active]:text-text"
            >
              {title}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <Tabs.Content value="about" className="mt-6 grid gap-8 lg:grid-cols-[2fr_1fr]">
          <div className="space-y-8">
            <VariablesTable variables={detail.variables} />
            {detail.presets.length > 0 && <PresetsTable presets={detail.presets} reference={exact} />}
            <VersionsTable versions={versions.data ?? []} shown={detail.version} reference={reference} />
          </div>
          <section>
            <h2 className="text-lg">Readme of the source project</h2>
            <div className="prose-plain mt-3 rounded border border-line bg-panel px-5 py-4">
              {detail.readme ? (
                <Markdown remarkPlugins={[remarkGfm]} components={{ a: ReadmeLink }}>
                  {detail.readme}
                </Markdown>
              ) : (
                <p className="text-muted">The source project has none.</p>
              )}
            </div>
          </section>
        </Tabs.Content>
        <Tabs.Content value="files" className="mt-4">
          <FilesTab reference={exact} variables={detail.variables} />
        </Tabs.Content>
      </Tabs.Root>
    </div>
  );
}

/** A link of the readme: to a file beside it, or out. */
function ReadmeLink({ href = "", children }: { href?: string; children?: ReactNode }) {
  const [search] = useSearchParams();
  if (/^([a-z]+:|\/|#)/i.test(href)) {
    return (
      <a href={href} rel="noreferrer">
        {children}
      </a>
    );
  }
  const beside = new URLSearchParams(search);
  beside.set("tab", "files");
  beside.set("file", href.replace(/^\.\//, "").replace(/#.*$/, ""));
  return <Link to={`?${beside}`}>{children}</Link>;
}
