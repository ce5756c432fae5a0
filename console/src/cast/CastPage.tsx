import { Link, useParams, useSearchParams } from "react-router";
import type { Reference } from "../api/client";
import { useVersion } from "../api/queries";
import { Failure, Loading } from "../parts/Notice";
import { CastForm } from "./CastForm";

/** Loads the version that the address names, and asks for its values. */
export function CastPage() {
  const { team = "", name = "" } = useParams();
  const [search] = useSearchParams();
  const reference: Reference = { team, name, version: search.get("version") ?? "latest" };
  const version = useVersion(reference);
  if (version.isError) {
    return (
      <div className="mx-auto max-w-5xl px-6 py-8">
        <Failure error={version.error} />
      </div>
    );
  }
  if (version.isPending) return <Loading />;
  const detail = version.data;
  return (
    <div className="flex h-[calc(100vh-3.5rem)] flex-col px-6 pt-4 pb-5">
      <header className="flex items-baseline gap-3">
        <h1 className="text-xl">Cast a project</h1>
        <p className="text-muted">
          from{" "}
          <Link
            to={`/catalogue/${team}/${name}?version=${encodeURIComponent(detail.version)}`}
            className="text-text underline decoration-line hover:text-ember"
          >
            {detail.title}
          </Link>{" "}
          <span className="font-mono text-sm">{detail.version}</span>
        </p>
      </header>
      <CastForm key={detail.digest} detail={detail} reference={{ ...reference, version: detail.version }} />
    </div>
  );
}
