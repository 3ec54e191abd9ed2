package server

import (
	"bytes"
	"context"
	"maps"
	"net/http"
	"slices"

	"readyrail/internal/core/access"
	"readyrail/internal/edit"
	"readyrail/internal/exchange"
)

// ImportLine is a line of a preview.
type ImportLine = exchange.Line

// ImportLines is a window of a preview's lines.
type ImportLines struct {
	Total int          `json:"total"`
	Lines []ImportLine `json:"lines"`
}

// ImportTuning changes how an open list is read and compared.
type ImportTuning struct {
	Match   *exchange.Matching `json:"match,omitempty"`
	Options exchange.Options   `json:"options"`
}

// Applied tells how many tags an import changed.
type Applied struct {
	Tags     int   `json:"tags"`
	Revision int64 `json:"revision"`
}

func (s *Server) importRoutes() {
	send(s, http.MethodPost, "/api/projects/{project}/imports", "Open a list of tags and preview it", func(ctx context.Context, in *struct {
		Scope
		Name    string `query:"name" maxLength:"200" doc:"of the file"`
		Format  string `query:"format" enum:",csv,xlsx,plcopen,nodeset,other" doc:"sensed where it is empty"`
		RawBody []byte `contentType:"application/octet-stream" maxLength:"67108864"`
	}) (*body[edit.ImportInfo], error) {
		who, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		// The list stays open after this request, whose buffer is used again.
		info, err := p.BeginImport(ctx, who, in.Name, exchange.Format(in.Format), bytes.Clone(in.RawBody))
		if err != nil {
			return nil, problem(err)
		}
		return &body[edit.ImportInfo]{*info}, nil
	})
	send(s, http.MethodPut, "/api/projects/{project}/imports/{id}", "Say what the columns mean, or what is left out",
		func(ctx context.Context, in *struct {
			ThingInput
			Body ImportTuning
		}) (*body[edit.ImportInfo], error) {
			who, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			info, err := p.TuneImport(ctx, who, in.ID, in.Body.Match, in.Body.Options)
			if err != nil {
				return nil, problem(err)
			}
			return &body[edit.ImportInfo]{*info}, nil
		})
	get(s, "/api/projects/{project}/imports/{id}/lines", "A window of the preview", func(ctx context.Context, in *struct {
		ThingInput
		Status string `query:"status" enum:",new,changed,same,gone,clashing,refused"`
		Text   string `query:"text" maxLength:"200"`
		Offset int    `query:"offset" minimum:"0"`
		Limit  int    `query:"limit" minimum:"1" maximum:"500" default:"200"`
	}) (*body[ImportLines], error) {
		who, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		lines, total, err := p.ImportLines(who, in.ID, exchange.Status(in.Status), in.Text, in.Offset, in.Limit)
		// The list stays: what is said of it goes into a copy.
		return &body[ImportLines]{ImportLines{total, slices.Clone(lines)}}, problem(err)
	})
	send(s, http.MethodPost, "/api/projects/{project}/imports/{id}/apply",
		"Bring in what is chosen, as one edit; types of structures as further ones", func(ctx context.Context, in *struct {
			ThingInput
			Body edit.Choice
		}) (*body[edit.Imported], error) {
			who, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			done, err := p.ApplyImport(ctx, who, in.ID, in.Body)
			if err != nil {
				return nil, problem(err)
			}
			return &body[edit.Imported]{*done}, nil
		})
	get(s, "/api/projects/{project}/export", "The tags as a list", func(ctx context.Context, in *struct {
		Scope
		Format  string   `query:"format" enum:"csv,xlsx" default:"csv"`
		Folders []string `query:"folder,explode" maxItems:"500" doc:"ids; their tags and those below alone"`
	}) (*fileOutput, error) {
		_, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		d := p.Draft()
		ids := d.SortedTags()
		if len(in.Folders) > 0 {
			below := map[string]bool{}
			for _, f := range in.Folders {
				_, tags := d.Below(f)
				maps.Copy(below, tags)
			}
			ids = slices.DeleteFunc(slices.Clone(ids), func(id string) bool { return !below[id] })
		}
		write := exchange.WriteCSV
		if in.Format == "xlsx" {
			write = exchange.WriteXLSX
		}
		var buf bytes.Buffer
		err = write(&buf, d, ids)
		return sheetFile("tags", exchange.Format(in.Format), buf.Bytes()), problem(err)
	})
}
