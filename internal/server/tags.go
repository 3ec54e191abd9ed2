package server

import (
	"bytes"
	"context"
	"errors"
	"net/http"
	"sort"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/device"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
)

// TagRow is a tag in the list.
type TagRow struct {
	Tag       tag.Tag  `json:"tag" doc:"its formula as people read it"`
	Path      string   `json:"path"`
	Uses      int      `json:"uses"`
	Severity  string   `json:"severity" doc:"of its worst finding, empty for none"`
	Reference string   `json:"reference" doc:"the address as a trade reference, counting from 1"`
	Offers    []string `json:"offers" doc:"kinds of elements that can show it, best first"`
}

// TagPage is a window of the filtered list.
type TagPage struct {
	Total int      `json:"total"`
	Rows  []TagRow `json:"rows"`
}

// FolderInfo is a folder in the tree.
type FolderInfo struct {
	ID     string `json:"id"`
	Parent string `json:"parent"`
	Name   string `json:"name"`
	Path   string `json:"path"`
	Tags   int    `json:"tags" doc:"tags in it and below"`
}

// FormulaCheck is the answer to a formula that is being typed.
type FormulaCheck struct {
	OK      bool   `json:"ok"`
	Type    string `json:"type"`
	Value   string `json:"value" doc:"its result now, as text"`
	Quality string `json:"quality"`
	Column  int    `json:"column" doc:"from 0"`
	Length  int    `json:"length"`
	Message string `json:"message"`
}

// AddressCheck is the answer to an address that is being typed.
type AddressCheck struct {
	OK        bool   `json:"ok"`
	Address   string `json:"address" doc:"as it is stored, counting from 0"`
	Reference string `json:"reference" doc:"as a trade reference, counting from 1"`
	Message   string `json:"message"`
}

// FunctionInfo and QualityInfo are lists for the interface.
type FunctionInfo = formula.Function

// QualityInfo names a quality.
type QualityInfo struct {
	Level  string `json:"level"`
	Reason string `json:"reason"`
}

func catalogue() Catalogue {
	out := Catalogue{Kinds: screen.Catalogue(), Colours: screen.Colours, Functions: formula.Functions(), Rights: access.Rights}
	for q := value.Quality(0); int(q) < value.Count; q++ {
		out.Qualities = append(out.Qualities, QualityInfo{q.Level().String(), q.Reason()})
	}
	return out
}

// ImportLine is a line of a preview.
type ImportLine = exchange.Line

// ImportPreview tells what an import would do.
type ImportPreview struct {
	New     int          `json:"new"`
	Changed int          `json:"changed"`
	Same    int          `json:"same"`
	Refused int          `json:"refused"`
	Lines   []ImportLine `json:"lines" doc:"at most 5000; the counts are of all"`
}

type tagQuery struct {
	Scope
	Text   string `query:"text" maxLength:"200" doc:"words that must stand in path, description or address; * is a wildcard"`
	Folder string `query:"folder" maxLength:"64" doc:"id; tags in it and below"`
	Device string `query:"device" maxLength:"64"`
	Type   string `query:"type" maxLength:"16"`
	Only   string `query:"only" enum:",bad,unused,findings,writable" doc:"a further filter"`
	Sort   string `query:"sort" enum:",path,type,address,uses" doc:"path where none is given"`
	Down   bool   `query:"down" doc:"sort downwards"`
	Offset int    `query:"offset" minimum:"0"`
	Limit  int    `query:"limit" minimum:"0" maximum:"500" default:"100"`
}

func (s *Server) tagRoutes() {
	get(s, "/api/projects/{project}/tags", "A window of the filtered tags", s.listTags)
	get(s, "/api/projects/{project}/tags/{id}", "One tag", func(ctx context.Context, in *ThingInput) (*body[TagRow], error) {
		_, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		t, ok := p.Draft().Tag(in.ID)
		if !ok {
			return nil, problem(host.ErrNotFound)
		}
		return &body[TagRow]{row(p.Draft(), t, worst(p.Draft()))}, nil
	})
	get(s, "/api/projects/{project}/folders", "The folders", func(ctx context.Context, in *Scope) (*body[[]FolderInfo], error) {
		_, p, err := s.enter(ctx, *in, access.Engineer)
		if err != nil {
			return nil, err
		}
		return &body[[]FolderInfo]{folders(p.Draft())}, nil
	})
	get(s, "/api/projects/{project}/uses/{id}", "Where a thing is used", func(ctx context.Context, in *ThingInput) (*body[[]project.Use], error) {
		_, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		out := p.Draft().Uses(in.ID)
		if out == nil {
			out = []project.Use{}
		}
		return &body[[]project.Use]{out[:min(len(out), 500)]}, nil
	})
	get(s, "/api/projects/{project}/find", "Find anything by name", s.find)
	send(s, http.MethodPost, "/api/projects/{project}/formulas", "Check a formula that is being typed", s.checkFormula)
	get(s, "/api/projects/{project}/address", "Check an address that is being typed", s.checkAddress)
	send(s, http.MethodPost, "/api/projects/{project}/import", "Preview or apply a tag list", s.importTags)
	get(s, "/api/projects/{project}/export", "The tags as CSV", func(ctx context.Context, in *Scope) (*fileOutput, error) {
		_, p, err := s.enter(ctx, *in, access.Engineer)
		if err != nil {
			return nil, err
		}
		var buf bytes.Buffer
		err = exchange.WriteCSV(&buf, p.Draft(), p.Draft().SortedTags())
		return &fileOutput{"text/csv; charset=utf-8", `attachment; filename="tags.csv"`, buf.Bytes()}, problem(err)
	})
}

// ThingInput names a thing of a project.
type ThingInput struct {
	Scope
	ID string `path:"id" maxLength:"64"`
}

// worst maps things to the severity of their worst finding.
func worst(p *project.Project) map[string]string {
	out := map[string]string{}
	for _, f := range p.Findings() {
		if out[f.ID] == "" && f.Severity != project.Note {
			out[f.ID] = string(f.Severity)
		}
	}
	return out
}

func row(p *project.Project, t *tag.Tag, severity map[string]string) TagRow {
	path, _ := p.Path(t.ID)
	r := TagRow{Tag: *p.ShownTag(t), Path: path, Uses: len(p.Uses(t.ID)), Severity: severity[t.ID], Offers: []string{}}
	if a, err := device.ParseAddress(t.Address); err == nil && t.Source == tag.Device {
		r.Reference = a.Reference()
	}
	for _, k := range screen.Offers(t) {
		r.Offers = append(r.Offers, k.Name)
	}
	return r
}

func (s *Server) listTags(ctx context.Context, in *tagQuery) (*body[TagPage], error) {
	_, p, err := s.enter(ctx, in.Scope, access.Engineer)
	if err != nil {
		return nil, err
	}
	d := p.Draft()
	severity := worst(d)
	match := matcher(in.Text)
	below := subtree(d, in.Folder)
	var hits []*tag.Tag
	for _, id := range d.SortedTags() {
		t := d.Tags[id]
		path, _ := d.Path(id)
		switch {
		case below != nil && !below[t.Folder],
			in.Device != "" && t.Device != in.Device,
			in.Type != "" && t.Type.Kind.String() != in.Type,
			in.Only == "unused" && len(d.Uses(id)) > 0,
			in.Only == "findings" && severity[id] == "",
			in.Only == "writable" && !t.Writable(),
			!match(path, t.Description, t.Address):
			continue
		}
		hits = append(hits, t)
	}
	if in.Only == "bad" {
		hits = onlyBad(p, hits)
	}
	order(d, hits, in.Sort, in.Down)
	out := TagPage{Total: len(hits), Rows: []TagRow{}}
	for i := in.Offset; i < len(hits) && i < in.Offset+in.Limit; i++ {
		out.Rows = append(out.Rows, row(d, hits[i], severity))
	}
	return &body[TagPage]{out}, nil
}

func onlyBad(p *host.Project, tags []*tag.Tag) []*tag.Tag {
	ids := make([]string, len(tags))
	for i, t := range tags {
		ids[i] = t.ID
	}
	var out []*tag.Tag
	for i, r := range p.ReadTags(host.Draft, ids) {
		if r.Value.Quality.IsBad() {
			out = append(out, tags[i])
		}
	}
	return out
}

func order(d *project.Project, tags []*tag.Tag, by string, down bool) {
	less := map[string]func(a, b *tag.Tag) bool{
		"type": func(a, b *tag.Tag) bool { return a.Type.String() < b.Type.String() },
		"address": func(a, b *tag.Tag) bool {
			if a.Device != b.Device {
				return a.Device < b.Device
			}
			return tag.Less(a.Address, b.Address)
		},
		"uses": func(a, b *tag.Tag) bool { return len(d.Uses(a.ID)) < len(d.Uses(b.ID)) },
	}[by]
	if less != nil {
		sort.SliceStable(tags, func(i, j int) bool { return less(tags[i], tags[j]) })
	}
	if down {
		for i, j := 0, len(tags)-1; i < j; i, j = i+1, j-1 {
			tags[i], tags[j] = tags[j], tags[i]
		}
	}
}

// matcher tells whether every word of a filter stands in one of some texts.
func matcher(text string) func(texts ...string) bool {
	words := strings.Fields(strings.ToLower(text))
	return func(texts ...string) bool {
		for _, w := range words {
			found := false
			for _, t := range texts {
				found = found || wild(w, strings.ToLower(t))
			}
			if !found {
				return false
			}
		}
		return true
	}
}

// wild matches a word with * for any run of characters, anywhere in a text.
func wild(word, text string) bool {
	for _, part := range strings.Split(word, "*") {
		i := strings.Index(text, part)
		if i < 0 {
			return false
		}
		text = text[i+len(part):]
	}
	return true
}

// subtree is the set of a folder and all below it; nil for the top.
func subtree(d *project.Project, root string) map[string]bool {
	if root == "" {
		return nil
	}
	out := map[string]bool{root: true}
	for grew := true; grew; {
		grew = false
		for id, f := range d.Folders {
			if !out[id] && out[f.Parent] {
				out[id], grew = true, true
			}
		}
	}
	return out
}

func folders(d *project.Project) []FolderInfo {
	count := map[string]int{}
	for _, t := range d.Tags {
		for f := t.Folder; f != ""; f = d.Folders[f].Parent {
			count[f]++
		}
	}
	out := []FolderInfo{}
	for id, f := range d.Folders {
		out = append(out, FolderInfo{id, f.Parent, f.Name, d.FolderPath(id), count[id]})
	}
	sort.Slice(out, func(i, j int) bool { return tag.Less(out[i].Path, out[j].Path) })
	return out
}

// Hit is something that the finder found.
type Hit struct {
	Kind string `json:"kind"`
	ID   string `json:"id"`
	Name string `json:"name"`
	Note string `json:"note"`
}

func (s *Server) find(ctx context.Context, in *struct {
	Scope
	Text string `query:"text" maxLength:"200"`
}) (*body[[]Hit], error) {
	_, p, err := s.enter(ctx, in.Scope, access.Engineer)
	if err != nil {
		return nil, err
	}
	const most = 40
	d, match := p.Draft(), matcher(in.Text)
	out := []Hit{}
	for _, sc := range screenList(d) {
		if match(sc.Name, sc.Title) {
			out = append(out, Hit{project.KindScreen, sc.ID, sc.Name, sc.Title})
		}
	}
	for _, id := range project.SortedKeys(d.Devices) {
		if match(d.Devices[id].Name, d.Devices[id].Description) {
			out = append(out, Hit{project.KindDevice, id, d.Devices[id].Name, d.Devices[id].Description})
		}
	}
	for _, id := range d.SortedTags() {
		path, _ := d.Path(id)
		if len(out) >= most {
			break
		}
		if match(path, d.Tags[id].Description) {
			out = append(out, Hit{project.KindTag, id, path, d.Tags[id].Description})
		}
	}
	return &body[[]Hit]{out[:min(len(out), most)]}, nil
}

func (s *Server) checkFormula(ctx context.Context, in *struct {
	Scope
	Body struct {
		Formula string `json:"formula" maxLength:"4000"`
		Wants   string `json:"wants,omitempty" enum:",text,template,number,bool,colour" doc:"the property type that the formula drives"`
	}
}) (*body[FormulaCheck], error) {
	_, p, err := s.enter(ctx, in.Scope, access.Engineer)
	if err != nil {
		return nil, err
	}
	r, err := p.TryFormula(in.Body.Formula)
	out := FormulaCheck{OK: err == nil, Type: r.Kind.String(), Column: -1}
	var fe *formula.Error
	switch {
	case errors.As(err, &fe):
		out.Column, out.Length, out.Message = fe.Column, fe.Length, fe.Message
	case err != nil:
		return nil, problem(err)
	case in.Body.Wants != "" && !screen.Accepts(screen.PropType(in.Body.Wants), r.Kind):
		out.OK, out.Column, out.Length = false, 0, len([]rune(in.Body.Formula))
		out.Message = "this gives " + strings.ToLower(r.Kind.String()) + "; the property takes " + screen.Wants(screen.PropType(in.Body.Wants))
	}
	if err == nil {
		out.Quality = r.Quality.Level().String()
		if r.Quality.IsBad() {
			out.Value = r.Quality.Reason()
		} else {
			out.Value = (&tag.Tag{}).Show(r, false)
		}
	}
	return &body[FormulaCheck]{out}, nil
}

func (s *Server) checkAddress(ctx context.Context, in *struct {
	Scope
	Address string `query:"address" maxLength:"40"`
	Type    string `query:"type" maxLength:"16"`
}) (*body[AddressCheck], error) {
	if _, _, err := s.enter(ctx, in.Scope, access.Engineer); err != nil {
		return nil, err
	}
	a, err := device.ParseAddress(in.Address)
	if err == nil && in.Type != "" {
		var t value.Type
		if t, err = value.ParseType(in.Type); err == nil {
			err = a.Fit(t)
		}
	}
	if err != nil {
		return &body[AddressCheck]{AddressCheck{Message: err.Error()}}, nil
	}
	return &body[AddressCheck]{AddressCheck{OK: true, Address: a.String(), Reference: a.Reference()}}, nil
}

func (s *Server) importTags(ctx context.Context, in *struct {
	Scope
	Body struct {
		Text  string `json:"text" maxLength:"67108864" doc:"the file's content"`
		Apply bool   `json:"apply,omitempty"`
		Lines []int  `json:"lines,omitempty" doc:"with apply: the line numbers to take; all where absent"`
	}
}) (*body[ImportPreview], error) {
	who, p, err := s.enter(ctx, in.Scope, access.Engineer)
	if err != nil {
		return nil, err
	}
	lines, err := p.Import(ctx, who, []byte(in.Body.Text), in.Body.Apply, in.Body.Lines)
	if err != nil {
		return nil, problem(err)
	}
	out := ImportPreview{Lines: lines[:min(len(lines), 5000)]}
	for _, l := range lines {
		switch l.Status {
		case exchange.New:
			out.New++
		case exchange.Changed:
			out.Changed++
		case exchange.Same:
			out.Same++
		case exchange.Refused:
			out.Refused++
		}
	}
	return &body[ImportPreview]{out}, nil
}
