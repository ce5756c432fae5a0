package cli

import (
	"io"

	"github.com/klauspost/compress/gzip"
	"github.com/spf13/cobra"

	"ironcast/core/bundle"
	"ironcast/core/manifest"
)

func (s *session) publishCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "publish DIR",
		Short: "Prove a template and add it to the catalogue",
		Long: `Proves the template in a folder, packs it, and adds it to the catalogue as the
version that its manifest names. Published versions never change: the same
contents again are a quiet yes, other contents need another version.`,
		Args: between(1, 1, "one folder"),
		RunE: func(command *cobra.Command, args []string) error {
			ctx := command.Context()
			template, report, err := s.prove(ctx, args[0], false)
			if err != nil {
				return err
			}
			p := newPrinter(s.out)
			if s.format == "text" {
				printReport(p, report)
			}
			if !report.Passed() {
				if s.format == "json" {
					s.json(report)
				}
				s.complain("the template does not prove clean, so it is not published")
				return errFound
			}
			m, err := manifest.Of(template)
			if err != nil {
				return err
			}
			c, err := s.client()
			if err != nil {
				return err
			}
			if c.Token == "" {
				return wrongUsage("publishing needs an account on %s; log in with: ironcast login %s", c.Server, c.Server)
			}
			packed, size := pipe(func(w io.Writer) error {
				zipped := gzip.NewWriter(w)
				if _, _, err := bundle.Write(ctx, zipped, template, m); err != nil {
					return err
				}
				return zipped.Close()
			})
			defer packed.Close()
			done, err := c.Publish(ctx, m.Team, m.Template, m.Version, packed)
			if err != nil {
				return err
			}
			if s.format == "json" {
				return s.json(done)
			}
			if !done.Added {
				p.line("\n%s is published already with these very contents.", p.strong.Render(done.Reference))
				return nil
			}
			p.line("\nPublished %s  %s", p.strong.Render(done.Reference), p.faint.Render(bytesText(*size)+", "+shortDigest(done.Version.Digest)))
			p.line("%s ironcast cast %s DIR", p.accent.Render("Next:"), done.Reference)
			return nil
		},
	}
}

// pipe returns what write writes, as it is written, and how much that was so
// far.
func pipe(write func(io.Writer) error) (io.ReadCloser, *int64) {
	reader, writer := io.Pipe()
	size := new(int64)
	go func() { writer.CloseWithError(write(io.MultiWriter(writer, tally{size}))) }()
	return reader, size
}

type tally struct{ bytes *int64 }

func (t tally) Write(p []byte) (int, error) {
	*t.bytes += int64(len(p))
	return len(p), nil
}
