import { Link } from "react-router";
import type { Preset, Reference } from "../api/client";
import { Table } from "../parts/Table";

/** The named sets of values that a template offers to start from. */
export function PresetsTable({ presets, reference }: { presets: Preset[]; reference: Reference }) {
  const { team, name, version } = reference;
  return (
    <section>
      <h2 className="text-lg">Presets</h2>
      <Table heads={["Preset", "Sets"]}>
        {presets.map((preset) => (
          <tr key={preset.name} className="align-top">
            <td>
              <Link
                to={`/cast/${team}/${name}?${new URLSearchParams({ version, preset: preset.name })}`}
                className="font-medium underline decoration-line hover:text-ember"
              >
                {preset.label || preset.name}
              </Link>
              <p className="text-muted">{preset.help}</p>
            </td>
            <td className="font-mono text-[12.5px] [overflow-wrap:anywhere]">
              {Object.entries(preset.values).map(([variable, value]) => (
                <span key={variable} className="block">
                  {variable} = {Array.isArray(value) ? value.join(", ") || "none" : String(value)}
                </span>
              ))}
            </td>
          </tr>
        ))}
      </Table>
    </section>
  );
}
