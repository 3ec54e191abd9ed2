package exchange

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"

	"readyrail/internal/core/project"
)

// The project archive: a zip of readable JSON files, one a thing, the same
// bytes for the same project. docs/formats.md describes it.

// SchemaVersion is the version of the documents in an archive.
const SchemaVersion = 1

// Limits of an archive, so that a hostile one cannot fill the memory.
const (
	MaxArchiveBytes  = 64 << 20
	maxUnpackedBytes = 512 << 20
	maxArchiveFiles  = 500_000
)

type manifest struct {
	Format string `json:"format"`
	Schema int    `json:"schema"`
}

const archiveFormat = "ready-rail-project"

// WriteArchive packs a project's things and returns the archive with the
// SHA-256 of its content.
func WriteArchive(entities []project.Entity) (archive []byte, hash string, err error) {
	var buf bytes.Buffer
	z := zip.NewWriter(&buf)
	sum := sha256.New()
	add := func(name string, doc any) error {
		b, err := json.MarshalIndent(doc, "", "  ")
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		// No time stamp: the same project gives the same bytes.
		f, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
		if err != nil {
			return err
		}
		fmt.Fprintf(sum, "%s\n%d\n", name, len(b))
		sum.Write(b)
		_, err = f.Write(append(b, '\n'))
		return err
	}
	if err := add("project.json", manifest{archiveFormat, SchemaVersion}); err != nil {
		return nil, "", err
	}
	for _, e := range entities {
		if err := add(e.Kind+"/"+e.ID+".json", e.Doc); err != nil {
			return nil, "", err
		}
	}
	if err := z.Close(); err != nil {
		return nil, "", err
	}
	return buf.Bytes(), hex.EncodeToString(sum.Sum(nil)), nil
}

// ReadArchive unpacks an archive. It refuses what is not one, what is too
// large, and what a newer version wrote.
func ReadArchive(data []byte) ([]project.Entity, error) {
	if len(data) > MaxArchiveBytes {
		return nil, fmt.Errorf("the archive has %d MB; %d MB is the most", len(data)>>20, MaxArchiveBytes>>20)
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, errors.New("the file is not a project archive: it is no zip")
	}
	if len(z.File) > maxArchiveFiles {
		return nil, fmt.Errorf("the archive has more than %d files", maxArchiveFiles)
	}
	left := int64(maxUnpackedBytes)
	var out []project.Entity
	known := false
	for _, f := range z.File {
		if f.Name != path.Clean(f.Name) || path.IsAbs(f.Name) || strings.HasPrefix(f.Name, "..") || strings.Contains(f.Name, `\`) {
			return nil, fmt.Errorf("the archive holds a file with the name %q, which leads out of it", f.Name)
		}
		r, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
		b, err := io.ReadAll(io.LimitReader(r, left+1))
		r.Close()
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
		if left -= int64(len(b)); left < 0 {
			return nil, fmt.Errorf("the archive unpacks to more than %d MB", maxUnpackedBytes>>20)
		}
		if f.Name == "project.json" {
			var m manifest
			if err := json.Unmarshal(b, &m); err != nil || m.Format != archiveFormat {
				return nil, errors.New("the file is not a project archive: its project.json says something else")
			}
			if m.Schema > SchemaVersion {
				return nil, fmt.Errorf("the archive was written by a newer Ready Rail (schema %d, this one knows %d)", m.Schema, SchemaVersion)
			}
			known = true
			continue
		}
		kind, id := path.Split(strings.TrimSuffix(f.Name, ".json"))
		out = append(out, project.Entity{Kind: strings.TrimSuffix(kind, "/"), ID: id, Doc: bytes.TrimSpace(b)})
	}
	if !known {
		return nil, errors.New("the file is not a project archive: it has no project.json")
	}
	return out, nil
}
