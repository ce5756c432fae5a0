import { useMemo } from "react";
import { useSearchParams } from "react-router";
import type { Reference, Variable } from "../api/client";
import { useFile, useFiles } from "../api/queries";
import { Failure, Loading } from "../parts/Notice";
import { FileTree } from "../slots/FileTree";
import { FileView } from "../slots/FileView";
import { Legend } from "../slots/Legend";
import { huesOf } from "../slots/tint";

/** A version's files as the source project has them, with their slots. */
export function FilesTab({ reference, variables }: { reference: Reference; variables: Variable[] }) {
  const [search, setSearch] = useSearchParams();
  const hues = useMemo(() => huesOf(variables), [variables]);
  const files = useFiles(reference);
  const first =
    files.data?.find((file) => file.slots > 1) ?? files.data?.find((file) => file.kind === "file");
  const open = search.get("file") ?? first?.source;
  const file = useFile(reference, open);
  if (files.isError) return <Failure error={files.error} />;
  if (files.isPending) return <Loading />;
  const show = (source: string) =>
    setSearch(
      (before) => {
        const after = new URLSearchParams(before);
        after.set("file", source);
        return after;
      },
      { replace: true },
    );
  return (
    <>
      <Legend variables={variables} hues={hues} />
      <div className="mt-3 grid h-[calc(100vh-19rem)] min-h-96 grid-cols-[19rem_1fr] overflow-hidden rounded border border-line bg-panel">
        <div className="overflow-auto border-r border-line py-2">
          <FileTree files={files.data ?? []} hues={hues} open={open} onOpen={show} />
        </div>
        {file.isError ? (
          <Failure error={file.error} />
        ) : (
          <FileView file={file.data} variables={variables} hues={hues} />
        )}
      </div>
    </>
  );
}
