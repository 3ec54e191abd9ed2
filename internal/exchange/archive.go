package exchange

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"path"
	"strings"

	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/say"
)

// The project archive: a zip of readable JSON files, one a thing, the same
// bytes for the same project. docs/formats.md describes it.

// Content is what an archive holds.
type Content struct {
	Things  []project.Entity
	Recipes []Recipe // of the running plant; none where they were not asked for
}

// Recipe is a recipe of the running plant with all its versions, oldest first.
type Recipe struct {
	ID       string          `json:"-"` // the name of its file
	Book     string          `json:"book"`
	Name     string          `json:"name"`
	Versions []RecipeVersion `json:"versions"`
}

// RecipeVersion is one version of a recipe; its number is its place in the list,
// from 1. Times are nanoseconds since 1970.
type RecipeVersion struct {
	Values    recipe.Values `json:"values"`
	State     string        `json:"state"`
	Person    string        `json:"person"` // id of who wrote it
	Name      string        `json:"name"`
	At        int64         `json:"at"`
	Why       string        `json:"why,omitempty"`
	JudgedBy  string        `json:"judgedBy,omitempty"`
	JudgedAt  int64         `json:"judgedAt,omitempty"`
	JudgedWhy string        `json:"judgedWhy,omitempty"`
}

// recipeFolder is where an archive has recipes.
const recipeFolder = "plant/recipes"

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

// WriteArchive packs a project and returns the archive with the SHA-256 of its
// content. What would be too large to be read again is refused.
func WriteArchive(c Content) (archive []byte, hash string, err error) {
	var buf bytes.Buffer
	z := zip.NewWriter(&buf)
	z.RegisterCompressor(zip.Deflate, quickly())
	sum := sha256.New()
	unpacked := 0
	add := func(name string, doc any) error {
		b, err := json.MarshalIndent(doc, "", "  ")
		if err != nil {
			return say.Errorf("%s: %w", name, err)
		}
		// No time stamp: the same project gives the same bytes.
		f, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
		if err != nil {
			return err
		}
		unpacked += len(b) + 1
		fmt.Fprintf(sum, "%s\n%d\n", name, len(b))
		sum.Write(b)
		_, err = f.Write(append(b, '\n'))
		return err
	}
	if err := add("project.json", manifest{archiveFormat, SchemaVersion}); err != nil {
		return nil, "", err
	}
	for _, e := range c.Things {
		if err := add(e.Kind+"/"+e.ID+".json", e.Doc); err != nil {
			return nil, "", err
		}
	}
	for _, r := range c.Recipes {
		if err := add(recipeFolder+"/"+r.ID+".json", r); err != nil {
			return nil, "", err
		}
	}
	if err := z.Close(); err != nil {
		return nil, "", err
	}
	files := 1 + len(c.Things) + len(c.Recipes)
	if buf.Len() > MaxArchiveBytes || unpacked > maxUnpackedBytes || files > maxArchiveFiles {
		return nil, "", say.Errorf("%w: %d files, %d MB, %d MB packed", ErrTooLarge, files, unpacked>>20, buf.Len()>>20)
	}
	return buf.Bytes(), hex.EncodeToString(sum.Sum(nil)), nil
}

// quickly packs with the level that has least to set up: of tens of thousands of small
// files most of the time went into clearing the tables of a better one.
func quickly() zip.Compressor {
	var last *flate.Writer // files are packed one after the other
	return func(to io.Writer) (io.WriteCloser, error) {
		if last == nil {
			var err error
			last, err = flate.NewWriter(to, flate.BestSpeed)
			return last, err
		}
		last.Reset(to)
		return last, nil
	}
}

// ErrTooLarge says that an archive would be too large to be read again.
var ErrTooLarge = say.New("the archive would be too large to be read again")

// ReadArchive unpacks an archive. It refuses what is not one, what is too
// large, and what a newer version wrote.
func ReadArchive(data []byte) (*Content, error) {
	if len(data) > MaxArchiveBytes {
		return nil, say.Errorf("the archive has %d MB; %d MB is the most", len(data)>>20, MaxArchiveBytes>>20)
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, say.New("the file is not a project archive: it is no zip")
	}
	if len(z.File) > maxArchiveFiles {
		return nil, say.Errorf("the archive has more than %d files", maxArchiveFiles)
	}
	left := int64(maxUnpackedBytes)
	out := &Content{}
	known := false
	for _, f := range z.File {
		if f.Name != path.Clean(f.Name) || path.IsAbs(f.Name) || strings.HasPrefix(f.Name, "..") || strings.Contains(f.Name, `\`) {
			return nil, say.Errorf("the archive holds a file with the name %q, which leads out of it", f.Name)
		}
		r, err := f.Open()
		if err != nil {
			return nil, say.Errorf("%s: %w", f.Name, err)
		}
		b, err := io.ReadAll(io.LimitReader(r, left+1))
		r.Close()
		if err != nil {
			return nil, say.Errorf("%s: %w", f.Name, err)
		}
		if left -= int64(len(b)); left < 0 {
			return nil, say.Errorf("the archive unpacks to more than %d MB", maxUnpackedBytes>>20)
		}
		if f.Name == "project.json" {
			var m manifest
			if err := json.Unmarshal(b, &m); err != nil || m.Format != archiveFormat {
				return nil, say.New("the file is not a project archive: its project.json says something else")
			}
			if m.Schema > SchemaVersion {
				return nil, say.Errorf("the archive was written by a newer Ready Rail (schema %d, this one knows %d)", m.Schema, SchemaVersion)
			}
			known = true
			continue
		}
		kind, id := path.Split(strings.TrimSuffix(f.Name, ".json"))
		if kind = strings.TrimSuffix(kind, "/"); kind != recipeFolder {
			out.Things = append(out.Things, project.Entity{Kind: kind, ID: id, Doc: bytes.TrimSpace(b)})
			continue
		}
		packed := Recipe{ID: id}
		d := json.NewDecoder(bytes.NewReader(b))
		d.DisallowUnknownFields()
		if err := d.Decode(&packed); err != nil {
			return nil, say.Errorf("%s: %w", f.Name, err)
		}
		out.Recipes = append(out.Recipes, packed)
	}
	if !known {
		return nil, say.New("the file is not a project archive: it has no project.json")
	}
	return out, nil
}
