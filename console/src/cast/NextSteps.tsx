import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { Preview } from "../api/client";
import { CopyButton } from "../parts/CopyButton";

interface Props {
  /** The name of the archive that was cast; none while there is nothing to show. */
  archive: string | undefined;
  preview: Preview;
  onClose: () => void;
}

/** What to do with a project that was just cast, as a list to tick off. */
export function NextSteps({ archive, preview, onClose }: Props) {
  const { next_steps: steps, commands, output } = preview;
  return (
    <Dialog.Root open={archive !== undefined} onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/45" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 max-h-[80vh] w-[36rem] -translate-x-1/2 -translate-y-1/2 overflow-y-auto rounded border border-line bg-panel p-6 shadow-xl"
        >
          <div className="flex items-start justify-between gap-4">
            <Dialog.Title className="text-lg">
              Cast as <span className="font-mono text-base">{archive}</span>
            </Dialog.Title>
            <Dialog.Close aria-label="Close" className="rounded p-1 text-muted hover:text-text">
              <X size={18} />
            </Dialog.Close>
          </div>
          {output.length > 0 && (
            <pre className="mt-3 overflow-x-auto rounded border border-line bg-raised px-3 py-2 font-mono text-xs">
              {output.join("\n")}
            </pre>
          )}
          {commands.length > 0 && (
            <section className="mt-4">
              <h3>Run in the project</h3>
              <p className="mt-1 text-sm text-muted">
                The template has these commands behind a cast. The service never runs them.
              </p>
              <ul className="mt-2 space-y-2">
                {commands.map((command) => (
                  <Command key={command} text={command} />
                ))}
              </ul>
            </section>
          )}
          {steps.length > 0 && (
            <section className="mt-4">
              <h3>Next</h3>
              <ul className="mt-2 space-y-3">
                {steps.map((step) => (
                  <li key={step.do}>
                    <label className="flex items-start gap-2.5">
                      <input type="checkbox" className="mt-1 size-4 shrink-0 accent-(--ember)" />
                      <span>{step.do}</span>
                    </label>
                    {step.run && (
                      <div className="mt-1.5 ml-6.5">
                        <Command text={step.run} />
                      </div>
                    )}
                  </li>
                ))}
              </ul>
            </section>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Command({ text }: { text: string }) {
  return (
    <div className="flex items-center gap-2 rounded border border-line bg-raised px-3 py-1.5">
      <code className="min-w-0 flex-1 font-mono text-xs [overflow-wrap:anywhere]">{text}</code>
      <CopyButton label="Copy" text={text} />
    </div>
  );
}
