import { Link } from "react-router";
import type { Reference, Version } from "../api/client";

interface Props {
  versions: Version[];
  shown: string;
  reference: Reference;
}

/** All versions, the highest first, each a link to the page as of then. */
export function VersionsTable({ versions, shown, reference }: Props) {
  return (
    <section>
      <h2 className="text-lg">Versions</h2>
      <table className="mt-3 w-full border-collapse text-sm">
        <thead>
          <tr className="border-b border-line text-left text-muted">
            <th className="py-1.5 pr-4 font-medium">Version</th>
            <th className="py-1.5 pr-4 font-medium">Published</th>
            <th className="py-1.5 pr-4 font-medium">By</th>
            <th className="py-1.5 pr-4 text-right font-medium">Files</th>
            <th className="py-1.5 text-right font-medium">Slots</th>
          </tr>
        </thead>
        <tbody>
          {versions.map((version) => (
            <tr key={version.version} className="border-b border-line" title={version.digest}>
              <td className="py-2 pr-4 font-mono">
                {version.version === shown ? (
                  <strong className="font-semibold">{version.version}</strong>
                ) : (
                  <Link
                    to={`/catalogue/${reference.team}/${reference.name}?version=${encodeURIComponent(version.version)}`}
                    className="text-ember underline"
                  >
                    {version.version}
                  </Link>
                )}
              </td>
              <td className="py-2 pr-4">
                {new Date(version.published).toLocaleDateString("en-GB", { dateStyle: "medium" })}
              </td>
              <td className="py-2 pr-4">{version.by}</td>
              <td className="py-2 pr-4 text-right tabular-nums">{version.files}</td>
              <td className="py-2 text-right tabular-nums">{version.slots}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
