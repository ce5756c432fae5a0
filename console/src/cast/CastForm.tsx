import { Download } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { useForm, useWatch } from "react-hook-form";
import { useNavigate, useSearchParams } from "react-router";
import type { Preview, Reference, VersionDetail } from "../api/client";
import { useCast, usePreview } from "../api/queries";
import { Button } from "../parts/Button";
import { CopyButton } from "../parts/CopyButton";
import { Failure } from "../parts/Notice";
import { FileTree } from "../slots/FileTree";
import { FileView } from "../slots/FileView";
import { huesOf } from "../slots/tint";
import { VariableField } from "./VariableField";
import { asked, commandFor, type Fields, fieldsFrom, linkTo, valuesOf } from "./values";

interface Props {
  detail: VersionDetail;
  reference: Reference;
}

/** The form on the left, and beside it the project that it would cast. */
export function CastForm({ detail, reference }: Props) {
  const { variables } = detail;
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const hues = useMemo(() => huesOf(variables), [variables]);
  const { control, formState, handleSubmit } = useForm<Fields>({
    defaultValues: fieldsFrom(variables, search),
  });
  const fields = useWatch({ control }) as Fields;
  const values = useMemo(() => valuesOf(variables, fields), [variables, fields]);
  const [file, setFile] = useState<string>();
  const [tried, setTried] = useState(false);
  const preview = usePreview(reference, values, file);
  const cast = useCast(reference);

  // The address carries the values, so that it can be sent to a colleague.
  const link = linkTo(reference, variables, values);
  useEffect(() => {
    void navigate(link, { replace: true });
  }, [link, navigate]);

  // The file with the most slots shows best what a change does.
  const files = preview.data?.files;
  useEffect(() => {
    if (file !== undefined || !files?.length) return;
    const best = files.toSorted((a, b) => b.slots - a.slots)[0];
    if (best) setFile(best.source);
  }, [file, files]);

  const problems = new Map(preview.data?.problems.map((problem) => [problem.variable, problem.message]));
  const download = (format: "tar.gz" | "zip") =>
    handleSubmit(() => {
      setTried(true);
      if (problems.size === 0) cast.mutate({ values, format });
    })();

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
          {asked(variables).map((variable) => (
            <VariableField
              key={variable.name}
              variable={variable}
              control={control}
              hues={hues}
              problem={
                tried || formState.dirtyFields[variable.name] || values[variable.name] !== undefined
                  ? problems.get(variable.name)
                  : undefined
              }
            />
          ))}
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
            {commandFor(reference, variables, values, preview.data?.folder ?? detail.template.name)}
          </code>
          <CopyButton
            label="Command"
            text={commandFor(reference, variables, values, preview.data?.folder ?? detail.template.name)}
          />
          <CopyButton label="Link" text={window.location.origin + link} />
        </div>
      </div>
    </form>
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
      </div>
      <div className="min-h-0 min-w-0">
        <FileView file={preview?.file} variables={detail.variables} hues={hues} />
      </div>
    </div>
  );
}
