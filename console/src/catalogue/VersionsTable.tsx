import { Link } from "react-router";
import type { Reference, Version } from "../api/client";
import { Table } from "../parts/Table";

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
      <Table heads={["Version", "Published", "By", ">Files", ">Slots"]}>
        {versions.map((version) => (
          <tr key={version.version} title={version.digest}>
            <td className="font-mono">
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
            <td>{new Date(version.published).toLocaleDateString("en-GB", { dateStyle: "medium" })}</td>
            <td>{version.by}</td>
            <td className="text-right tabular-nums">{version.files}</td>
            <td className="text-right tabular-nums">{version.slots}</td>
          </tr>
        ))}
      </Table>
    </section>
  );
}
