import { Download } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { useForm, useWatch } from "react-hook-form";
import { useNavigate, useSearchParams } from "react-router";
import type { Preview, Reference, VersionDetail } from "../api/client";
import { useCast, usePreview } from "../api/queries";
import { Button } from "../parts/Button";
import { CopyButton } from "../parts/CopyButton";
import { Failure } from "../parts/Notice";
import { Select } from "../parts/Select";
import { FileTree } from "../slots/FileTree";
import { FileView } from "../slots/FileView";
import { huesOf } from "../slots/tint";
import { NextSteps } from "./NextSteps";
import { VariableField } from "./VariableField";
import { asked, commandFor, type Field, type Fields, fieldsFrom, given, linkTo, valuesOf } from "./values";

interface Props {
  detail: VersionDetail;
  reference: Reference;
}

/** The select's value for taking no preset. */
const noPreset = "-";

/** The form on the left, and beside it the project that it would cast. */
export function CastForm({ detail, reference }: Props) {
  const { variables, presets } = detail;
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const hues = useMemo(() => huesOf(variables), [variables]);
  const { control, formState, handleSubmit, setValue } = useForm<Fields>({
    defaultValues: fieldsFrom(variables, search),
  });
  const fields = useWatch({ control }) as Fields;
  const [presetName, setPreset] = useState(search.get("preset") ?? undefined);
  const preset = presets.find(({ name }) => name === presetName);
  const [hidden, setHidden] = useState<string[]>([]);
  const values = useMemo(
    () =>
      valuesOf(
        variables.filter(({ name }) => !hidden.includes(name)),
        fields,
      ),
    [variables, fields, hidden],
  );
  const [file, setFile] = useState<string>();
  const [tried, setTried] = useState(false);
  const [done, setDone] = useState<string>();
  const preview = usePreview(reference, values, preset?.name, file);
  const cast = useCast(reference);
  const questions = asked(variables, preview.data);

  // What an earlier answer makes idle is not sent, and comes back with it.
  useEffect(() => {
    if (!preview.data) return;
    const idle = variables.filter(({ name, ask_when }) => ask_when && !preview.data.asked[name]);
    const names = idle.map(({ name }) => name);
    setHidden((before) => (before.join() === names.join() ? before : names));
  }, [preview.data, variables]);

  // The address carries the values, so that it can be sent to a colleague.
  const link = linkTo(reference, variables, values, preset?.name);
  useEffect(() => {
    void navigate(link, { replace: true });
  }, [link, navigate]);

  // The file with the most slots shows best what a change does.
  const files = preview.data?.files;
  useEffect(() => {
    if (file !== undefined || !files?.length) return;
    const best = files.toSorted((a, b) => b.slots - a.slots)[0];
    if (best) setFile(best.id);
  }, [file, files]);

  const problems = new Map(preview.data?.problems.map((problem) => [problem.variable, problem.message]));
  const download = (format: "tar.gz" | "zip") =>
    handleSubmit(() => {
      setTried(true);
      if (problems.size > 0) return;
      cast.mutate({ values, preset: preset?.name, format }, { onSuccess: setDone });
    })();
  const hasSteps =
    preview.data &&
    preview.data.next_steps.length + preview.data.commands.length + preview.data.output.length > 0;
  const command = commandFor(
    reference,
    variables,
    values,
    preset?.name,
    preview.data?.folder ?? detail.template.name,
  );

  return (
    <form
      className="mt-4 grid min-h-0 flex-1 grid-cols-[21rem_1fr] gap-5"
      onSubmit={(event) => {
        event.preventDefault();
        void download("tar.gz");
      }}
    >
      <div className="flex min-h-0 flex-col rounded border border-line bg-panel">
        <div className="min-h-0 flex-1 space-y-4 overflow-y-auto px-4 py-4">
          {presets.length > 0 && (
            <div className="border-b border-line pb-4">
              <label htmlFor="preset" className="font-medium">
                Preset
              </label>
              <Select
                id="preset"
                value={preset?.name ?? noPreset}
                options={[
                  { value: noPreset, label: "None" },
                  ...presets.map(({ name, label }) => ({ value: name, label: label || name })),
                ]}
                onChange={(name) => setPreset(name === noPreset ? undefined : name)}
                className="mt-1 w-full rounded border border-line bg-raised px-3 py-1.5"
              />
              {preset?.help && <p className="mt-1 text-xs text-muted">{preset.help}</p>}
            </div>
          )}
          {questions.map((variable) => (
            <VariableField
              key={variable.name}
              variable={variable}
              field={fields[variable.name]}
              given={given(variable, preset, preview.data)}
              onChange={(field: Field | undefined) => setValue(variable.name, field, { shouldDirty: true })}

              hues={hues}
              problem={
                tried || formState.dirtyFields[variable.name] || values[variable.name] !== undefined
                  ? problems.get(variable.name)
                  : undefined
              }
            />
          ))}
          <Computed detail={detail} preview={preview.data} />
          {problems.has("") && <Failure error={new Error(problems.get(""))} />}
        </div>
        <div className="space-y-2 border-t border-line px-4 py-3">
          {cast.isError && <Failure error={cast.error} />}
          {cast.isSuccess && (
            <p role="status" className="text-sm text-muted">
              Cast as <span className="font-mono text-text">{cast.data}</span>.
            </p>
          )}
          <div className="flex gap-2">
            <Button look="ember" type="submit" className="flex-1" disabled={cast.isPending}>
              <Download size={16} /> {cast.isPending ? "Casting…" : "Download .tar.gz"}
            </Button>
            <Button onClick={() => void download("zip")} disabled={cast.isPending}>
              .zip
            </Button>
          </div>
        </div>
      </div>
      <div className="flex min-h-0 min-w-0 flex-col gap-3">
        <Result preview={preview.data} {...{ detail, hues, file }} onOpen={setFile} />
        {preview.isError && <Failure error={preview.error} />}
        <div className="flex items-center gap-2 rounded border border-line bg-panel px-3 py-2">
          <code className="min-w-0 flex-1 truncate font-mono text-xs text-muted" data-testid="command">
            {command}
          </code>
          <CopyButton label="Command" text={command} />
          <CopyButton label="Link" text={window.location.origin + link} />
        </div>
      </div>
      {preview.data && hasSteps && (
        <NextSteps archive={done} preview={preview.data} onClose={() => setDone(undefined)} />
      )}
    </form>
  );
}

/** What follows from the answers, and is never asked for. */
function Computed({ detail, preview }: { detail: VersionDetail; preview: Preview | undefined }) {
  const computed = detail.variables.filter(({ value }) => value);
  if (computed.length === 0 || !preview) return null;
  return (
    <dl className="space-y-1.5 border-t border-line pt-3 text-sm">
      {computed.map((variable) => (
        <div key={variable.name}>
          <dt className="text-xs text-muted" title={variable.value}>
            {variable.label || variable.name}, computed
          </dt>
          <dd className="font-mono text-[12.5px] [overflow-wrap:anywhere]">
            {String(preview.values[variable.name] ?? "")}
          </dd>
        </div>
      ))}
    </dl>
  );
}

interface ResultProps {
  preview: Preview | undefined;
  detail: VersionDetail;
  hues: ReturnType<typeof huesOf>;
  file: string | undefined;
  onOpen: (source: string) => void;
}

/** The project that would come: its tree, and one of its files. */
function Result({ preview, detail, hues, file, onOpen }: ResultProps) {
  return (
    <div
      className="grid min-h-0 flex-1 grid-cols-[17rem_1fr] overflow-hidden rounded border border-line bg-panel"
      aria-label="Preview"
      role="region"
    >
      <div className="flex min-h-0 flex-col border-r border-line">
        <p className="truncate h-10 border-b border-line px-4 font-mono text-[13px] leading-10 font-medium">
          {preview?.folder ?? "…"}/
        </p>
        <div className="min-h-0 flex-1 overflow-auto py-2">
          {preview && <FileTree files={preview.files} hues={hues} open={file} onOpen={onOpen} />}
        </div>
        {preview && preview.left_out.length > 0 && (
          <details className="max-h-40 overflow-auto border-t border-line px-4 py-2 text-xs">
            <summary className="cursor-pointer text-muted">
              {preview.left_out.length} {preview.left_out.length === 1 ? "file is" : "files are"} left out
            </summary>
            <ul className="mt-1 space-y-1">
              {preview.left_out.map(({ source, rule }) => (
                <li key={source} title={rule}>
                  <button type="button" className="font-mono hover:text-ember" onClick={() => onOpen(source)}>
                    {source}
                  </button>
                  <span className="block text-muted">{rule}</span>
                </li>
              ))}
            </ul>
          </details>
        )}
      </div>
      <div className="min-h-0 min-w-0">
        <FileView file={preview?.file} variables={detail.variables} hues={hues} />
      </div>
    </div>
  );
}
