package exchange

import (
	"archive/zip"
	"bytes"
	"errors"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"

	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
)

// A project as a folder has the files of its archive, so that a team keeps it in version
// control: a change touches the files of its things alone.

// UnpackArchive writes the files of an archive into a folder. Files of things that the
// archive no longer has are taken away; whatever else lies there is left alone.
func UnpackArchive(archive []byte, dir string) error {
	z, err := zip.NewReader(bytes.NewReader(archive), int64(len(archive)))
	if err != nil {
		return err
	}
	kept := map[string]bool{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			return err
		}
		b, err := io.ReadAll(r)
		if err := errors.Join(err, r.Close()); err != nil {
			return err
		}
		kept[f.Name] = true
		if err := writeChanged(filepath.Join(dir, filepath.FromSlash(f.Name)), b); err != nil {
			return err
		}
	}
	return eachThing(dir, func(name string) error {
		if kept[name] {
			return nil
		}
		return os.Remove(filepath.Join(dir, filepath.FromSlash(name)))
	})
}

// writeChanged writes a file unless it has that content already.
func writeChanged(path string, b []byte) error {
	if now, err := os.ReadFile(path); err == nil && bytes.Equal(now, b) {
		return nil
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return err
	}
	return os.WriteFile(path, b, 0o644)
}

// PackFolder makes an archive of such a folder.
func PackFolder(dir string) ([]byte, error) {
	if _, err := os.Stat(filepath.Join(dir, "project.json")); err != nil {
		return nil, say.Errorf("%s is no folder of a project: it has no project.json", dir)
	}
	var buf bytes.Buffer
	z := zip.NewWriter(&buf)
	left := int64(maxUnpackedBytes)
	add := func(name string) error {
		b, err := os.ReadFile(filepath.Join(dir, filepath.FromSlash(name)))
		if err != nil {
			return err
		}
		if left -= int64(len(b)); left < 0 {
			return say.Errorf("the archive unpacks to more than %d MB", maxUnpackedBytes>>20)
		}
		w, err := z.Create(name)
		if err == nil {
			_, err = w.Write(b)
		}
		return err
	}
	if err := errors.Join(add("project.json"), eachThing(dir, add), z.Close()); err != nil {
		return nil, err
	}
	return buf.Bytes(), nil
}

// eachThing hands over the names of the files of things in a folder, in their order.
func eachThing(dir string, do func(name string) error) error {
	folders := []string{recipeFolder}
	for _, k := range project.Kinds() {
		folders = append(folders, k.Name)
	}
	for _, folder := range folders {
		entries, err := os.ReadDir(filepath.Join(dir, filepath.FromSlash(folder)))
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			return err
		}
		for _, e := range entries {
			if !e.Type().IsRegular() || !strings.HasSuffix(e.Name(), ".json") {
				continue
			}
			if err := do(path.Join(folder, e.Name())); err != nil {
				return err
			}
		}
	}
	return nil
}
