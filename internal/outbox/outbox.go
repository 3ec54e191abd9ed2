// Package outbox writes files into folders outside of the server's own, such as a
// removable medium or a share: whole or not at all, never over another file, and
// read back before they count.
package outbox

import (
	"bufio"
	"bytes"
	"crypto/sha256"
	"errors"
	"fmt"
	"hash"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"readyrail/internal/core/say"
	"readyrail/internal/machine"
	"slices"
	"strings"
	"unicode"
)

// Folder is one that files may go to, by the name that people know it by.
type Folder struct {
	Name, Path string
	// Unmounts says that its medium is unmounted as somebody has finished with it.
	Unmounts bool
}

// Parse reads name=path.
func Parse(text string) (Folder, error) {
	name, path, ok := strings.Cut(text, "=")
	name = strings.TrimSpace(name)
	if !ok || name == "" || len(name) > 60 || path == "" {
		return Folder{}, say.Errorf("%q is no folder for files: write name=path, as in stick=/media/stick", text)
	}
	if !filepath.IsAbs(path) {
		return Folder{}, say.Errorf("the folder %q needs a whole path, beginning with /", name)
	}
	return Folder{Name: name, Path: filepath.Clean(path)}, nil
}

// ParseAll reads folders, and those on media that are unmounted; each name stands
// once.
func ParseAll(folders, media []string) ([]Folder, error) {
	var out []Folder
	for i, text := range slices.Concat(folders, media) {
		f, err := Parse(text)
		if err != nil {
			return nil, err
		}
		f.Unmounts = i >= len(folders)
		if slices.ContainsFunc(out, func(g Folder) bool { return g.Name == f.Name }) {
			return nil, say.Errorf("there are two folders %q: give each a name of its own", f.Name)
		}
		out = append(out, f)
	}
	return out, nil
}

// Free is how many bytes can be written into the folder; the error says why it
// cannot be.
func (f Folder) Free() (int64, error) {
	info, err := os.Stat(f.Path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return 0, say.Errorf("the folder %s is not there: is its medium in its place?", f.Name)
	case err != nil:
		return 0, say.Errorf("the folder %s cannot be read: %v", f.Name, plain(err))
	case !info.IsDir():
		return 0, say.Errorf("%s is no folder", f.Name)
	}
	free, err := machine.Free(f.Path)
	if err != nil {
		return 0, say.Errorf("the folder %s cannot be read: %v", f.Name, plain(err))
	}
	return free, nil
}

// plain is an error without the path that it happened at.
func plain(err error) error {
	var at *fs.PathError
	if errors.As(err, &at) {
		return at.Err
	}
	return err
}

// Name is a text as the name of a file, on any system.
func Name(text string) string {
	out := strings.Map(func(r rune) rune {
		switch {
		case strings.ContainsRune(`/\:*?"<>|`, r), unicode.IsControl(r):
			return '-'
		}
		return r
	}, text)
	out = strings.Trim(out, " .")
	if runes := []rune(out); len(runes) > 120 {
		out = string(runes[:120])
	}
	if out == "" {
		return "file"
	}
	return out
}

// most is how many files of one name there may be.
const most = 1000

// Write writes a file of a name, with a number behind it where there is one of
// that name already, and gives the name it has. What was written is read back from
// the folder. Where anything fails nothing of it is left there.
func (f Folder) Write(name, ending string, write func(io.Writer) error) (file string, err error) {
	if _, err := f.Free(); err != nil {
		return "", err
	}
	part := filepath.Join(f.Path, "."+Name(name)+".part")
	if err := os.Remove(part); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return "", f.failed(err)
	}
	sum, err := fill(part, write)
	if err == nil {
		err = readBack(part, sum)
	}
	if err == nil {
		file, err = f.place(part, Name(name), ending)
	}
	if err != nil {
		os.Remove(part)
		return "", f.failed(err)
	}
	return file, nil
}

func (f Folder) failed(err error) error {
	if _, gone := f.Free(); gone != nil {
		return gone
	}
	if machine.Full(err) {
		return say.Errorf("the folder %s is full: nothing was left there", f.Name)
	}
	return say.Errorf("nothing was written to the folder %s: %w", f.Name, plain(err))
}

// fill writes a file and has it on the medium; sum is what was written.
func fill(path string, write func(io.Writer) error) (sum hash.Hash, err error) {
	out, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return nil, err
	}
	defer func() {
		if closed := out.Close(); err == nil {
			err = closed
		}
	}()
	sum = sha256.New()
	buffered := bufio.NewWriterSize(out, 1<<16)
	if err := write(io.MultiWriter(buffered, sum)); err != nil {
		return nil, err
	}
	if err := buffered.Flush(); err != nil {
		return nil, err
	}
	return sum, out.Sync()
}

// readBack compares a file with what was written to it.
func readBack(path string, sum hash.Hash) error {
	in, err := os.Open(path)
	if err != nil {
		return err
	}
	defer in.Close()
	read := sha256.New()
	if _, err := io.Copy(read, in); err != nil {
		return err
	}
	if !bytes.Equal(read.Sum(nil), sum.Sum(nil)) {
		return say.New("what was written is not what is read back")
	}
	return nil
}

// place gives a finished file its name, over no other one.
func (f Folder) place(part, name, ending string) (string, error) {
	for n := 1; n <= most; n++ {
		file := name
		if n > 1 {
			file = fmt.Sprintf("%s (%d)", name, n)
		}
		file += "." + ending
		path := filepath.Join(f.Path, file)
		// A file of that name is taken first, so that no other writer takes it too.
		taken, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
		if errors.Is(err, fs.ErrExist) {
			continue
		}
		if err != nil {
			return "", err
		}
		taken.Close()
		if err := os.Rename(part, path); err != nil {
			os.Remove(path)
			return "", err
		}
		return file, f.Sync()
	}
	return "", say.Errorf("there are %d files of the name %s already", most, name)
}

// Sync has everything that was written into the folder on its medium.
func (f Folder) Sync() error {
	if err := machine.SyncFolder(f.Path); err != nil {
		return f.failed(err)
	}
	return nil
}
