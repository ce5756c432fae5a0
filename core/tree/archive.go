package tree

import (
	"archive/tar"
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"slices"
	"strings"
	"time"

	"github.com/klauspost/compress/gzip"
)

// ReadTar reads a tar archive, compressed with gzip or not. The limits are kept
// while reading, so a small archive that unpacks to a large one is refused in
// time. Large contents are kept in a nameless temporary file.
func ReadTar(ctx context.Context, r io.Reader, limits Limits) (Tree, error) {
	buffered := bufio.NewReaderSize(r, 64<<10)
	var source io.Reader = buffered
	if magic, _ := buffered.Peek(2); bytes.Equal(magic, []byte{0x1f, 0x8b}) {
		unpacked, err := gzip.NewReader(buffered)
		if err != nil {
			return Tree{}, fmt.Errorf("the archive is damaged: %w", err)
		}
		source = unpacked
	}
	meter := meter{limits: limits}
	archive := tar.NewReader(source)
	var entries []Entry
	var store spool
	for {
		if err := ctx.Err(); err != nil {
			return Tree{}, err
		}
		header, err := archive.Next()
		if errors.Is(err, io.EOF) {
			return New(withoutFullFolders(entries), limits)
		}
		if err != nil {
			return Tree{}, fmt.Errorf("the archive is damaged: %w", err)
		}
		if header.Typeflag == tar.TypeXGlobalHeader {
			continue
		}
		entry := Entry{Path: strings.TrimSuffix(strings.TrimPrefix(header.Name, "./"), "/")}
		if entry.Path == "" && header.Typeflag == tar.TypeDir {
			continue
		}
		if err := CheckPath(entry.Path, limits); err != nil {
			return Tree{}, err
		}
		if err := meter.add(entry.Path, header.Size); err != nil {
			return Tree{}, err
		}
		switch header.Typeflag {
		case tar.TypeReg:
			entry.Executable = header.Mode&0o111 != 0
			if entry.Content, err = store.add(archive, header.Size); err != nil {
				return Tree{}, fmt.Errorf("%s in the archive cannot be read: %w", entry.Path, err)
			}
		case tar.TypeDir:
			entry.Kind = Folder
		case tar.TypeSymlink:
			entry.Kind, entry.Target = Link, header.Linkname
		default:
			return Tree{}, fmt.Errorf("%s in the archive %w", entry.Path, ErrKind)
		}
		entries = append(entries, entry)
	}
}

// withoutFullFolders drops the folders that have entries of their own.
func withoutFullFolders(entries []Entry) []Entry {
	full := map[string]bool{}
	for _, e := range entries {
		for folder := path.Dir(e.Path); folder != "." && !full[folder]; folder = path.Dir(folder) {
			full[folder] = true
		}
	}
	kept := entries[:0]
	for _, e := range entries {
		if e.Kind != Folder || !full[e.Path] {
			kept = append(kept, e)
		}
	}
	return kept
}

// spool keeps contents in memory up to spoolMemory bytes, and the rest in a
// temporary file that has no name and goes when nothing refers to it.
type spool struct {
	held int64
	file *os.File
	end  int64
}

const spoolMemory = 4 << 20

func (s *spool) add(r io.Reader, size int64) (Content, error) {
	if s.held+size <= spoolMemory {
		s.held += size
		content := make([]byte, size)
		_, err := io.ReadFull(r, content)
		return Memory(content), err
	}
	if s.file == nil {
		file, err := os.CreateTemp("", "ironcast-")
		if err != nil {
			return nil, err
		}
		s.file = file
		if err := os.Remove(file.Name()); err != nil {
			return nil, err
		}
	}
	content := spooledContent{file: s.file, start: s.end, size: size}
	written, err := io.Copy(s.file, io.LimitReader(r, size))
	if err == nil && written < size {
		err = io.ErrUnexpectedEOF
	}
	s.end += written
	return content, err
}

type spooledContent struct {
	file  *os.File
	start int64
	size  int64
}

func (c spooledContent) Size() int64 { return c.size }

func (c spooledContent) AppendTo(dst []byte) ([]byte, error) {
	at := len(dst)
	dst = slices.Grow(dst, int(c.size))[:at+int(c.size)]
	_, err := c.file.ReadAt(dst[at:], c.start)
	return dst, err
}

// WriteTar writes the tree as a tar archive below the folder prefix, which may
// be empty. The same tree gives the same bytes: entries are sorted, and carry
// no times and no owners.
func WriteTar(ctx context.Context, w io.Writer, t Tree, prefix string) error {
	archive := tar.NewWriter(w)
	var buffer []byte
	for _, e := range t.entries {
		if err := ctx.Err(); err != nil {
			return err
		}
		header := tar.Header{Name: path.Join(prefix, e.Path), Mode: 0o644, Format: tar.FormatPAX, ModTime: time.Unix(0, 0)}
		var err error
		switch e.Kind {
		case File:
			if buffer, err = e.Content.AppendTo(buffer[:0]); err != nil {
				return err
			}
			header.Typeflag, header.Size = tar.TypeReg, int64(len(buffer))
			if e.Executable {
				header.Mode = 0o755
			}
		case Folder:
			header.Typeflag, header.Mode = tar.TypeDir, 0o755
			header.Name += "/"
		case Link:
			header.Typeflag, header.Linkname = tar.TypeSymlink, e.Target
		}
		if err := archive.WriteHeader(&header); err != nil {
			return err
		}
		if e.Kind == File {
			if _, err := archive.Write(buffer); err != nil {
				return err
			}
		}
	}
	return archive.Close()
}

// WriteTarGz writes what WriteTar writes, compressed with gzip.
func WriteTarGz(ctx context.Context, w io.Writer, t Tree, prefix string) error {
	packed := gzip.NewWriter(w)
	if err := WriteTar(ctx, packed, t, prefix); err != nil {
		return err
	}
	return packed.Close()
}

// WriteZip writes the tree as a zip archive below the folder prefix, with
// executable bits and links as Unix programs read them.
func WriteZip(ctx context.Context, w io.Writer, t Tree, prefix string) error {
	archive := zip.NewWriter(w)
	var buffer []byte
	for _, e := range t.entries {
		if err := ctx.Err(); err != nil {
			return err
		}
		header := zip.FileHeader{Name: path.Join(prefix, e.Path), Method: zip.Deflate}
		var err error
		buffer = buffer[:0]
		switch e.Kind {
		case File:
			if buffer, err = e.Content.AppendTo(buffer); err != nil {
				return err
			}
			header.SetMode(0o644)
			if e.Executable {
				header.SetMode(0o755)
			}
		case Folder:
			header.Name += "/"
			header.Method = zip.Store
			header.SetMode(fs.ModeDir | 0o755)
		case Link:
			buffer = append(buffer, e.Target...)
			header.SetMode(fs.ModeSymlink | 0o777)
		}
		file, err := archive.CreateHeader(&header)
		if err != nil {
			return err
		}
		if _, err := file.Write(buffer); err != nil {
			return err
		}
	}
	return archive.Close()
}
