package server

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"sort"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/device"
	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
	"readyrail/internal/run"
)

// TagRow is a tag in the list.
type TagRow struct {
	Tag       tag.Tag          `json:"tag" doc:"its formula as people read it"`
	Path      string           `json:"path"`
	Uses      int              `json:"uses"`
	Severity  string           `json:"severity" doc:"of its worst finding, empty for none" enum:",error,warning,note"`
	Reference string           `json:"reference" doc:"the address as a trade reference, counting from 1"`
	Check     string           `json:"check" doc:"empty where there is nothing to check" enum:",untested,passed,failed,outdated"`
	Held      bool             `json:"held,omitempty" doc:"a person holds it at a value"`
	Behaviour *tag.Behaviour   `json:"behaviour,omitempty" doc:"what it does on a stand-in: its own, or the suggested one"`
	Gear      *project.GearTag `json:"gear,omitempty" doc:"the equipment that it is of"`
	Offers    []string         `json:"offers" doc:"kinds of elements that can show it, best first"`
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
	Type   string `json:"type" doc:"id of the type, where it is equipment"`
	Of     string `json:"of" doc:"id of the instance that it is, or lies in"`

	Record *tag.Recording `json:"record,omitempty" doc:"for all tags below that say nothing of their own"`
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
	Level  string `json:"level" doc:"bad, uncertain, held or good" enum:"good,uncertain,bad,held"`
	Reason string `json:"reason"`
	// Mistake says that nothing is wrong with the value but with what an
	// engineer wrote.
	Mistake bool `json:"mistake,omitempty"`
}

func catalogue(language string) Catalogue {
	out := Catalogue{Things: project.Kinds(), Kinds: screen.Catalogue(), Colours: screen.Colours, Functions: formula.Functions(),
		Rights: access.Rights, System: tag.SystemValues, Behaviours: tag.Behaviours, Columns: exchange.Columns,
		Looks: project.SortedKeys(screen.LookProps()), Places: screen.Places, Differing: equipment.Differing,
		AlarmDiff: equipment.AlarmDiffering, AlarmUsual: equipment.AlarmUsual, Entries: project.JournalKinds,
		Failures: project.JournalFailures, Qualities: qualities(language)}
	return out
}

// qualities are what the codes of frames mean, in a language.
func qualities(language string) (out []QualityInfo) {
	for q := value.Quality(0); int(q) < value.Count; q++ {
		level := q.Level().String()
		if q == value.Held {
			level = "held"
		}
		out = append(out, QualityInfo{level, q.Reason().Say(language), q == value.BadConfig})
	}
	return out
}

// TagFilter narrows and sorts the list of tags.
type TagFilter struct {
	Text   string `query:"text" maxLength:"200" doc:"words that must stand in path, description or address; * is a wildcard"`
	Folder string `query:"folder" maxLength:"64" doc:"id; tags in it and below"`
	Own    bool   `query:"own" doc:"those of the folder itself, and none below; of the top where no folder is given"`
	Device string `query:"device" maxLength:"64"`
	Type   string `query:"type" maxLength:"16"`
	Source string `query:"source" enum:",device,internal,computed,system"`
	Check  string `query:"check" enum:",untested,passed,failed,outdated" doc:"state of the loop check"`
	Only   string `query:"only" enum:",bad,uncertain,held,unused,findings,writable" doc:"a further filter"`
	Sort   string `query:"sort" enum:",path,type,address,uses,source,check,description" doc:"path where none is given"`
	Down   bool   `query:"down" doc:"sort downwards"`
}

type tagQuery struct {
	Scope
	TagFilter
	Offset int `query:"offset" minimum:"0"`
	Limit  int `query:"limit" minimum:"0" maximum:"500" default:"100"`
}

func (s *Server) tagRoutes() {
	get(s, "/api/projects/{project}/tags", "A window of the filtered tags", s.listTags)
	get(s, "/api/projects/{project}/tags/{id}", "One tag", func(ctx context.Context, in *ThingInput) (*body[TagRow], error) {
		_, p, err := s.enter(ctx, in.Scope, looking)
		if err != nil {
			return nil, err
		}
		t, ok := p.Draft().Tag(in.ID)
		if !ok {
			return nil, problem(host.ErrNotFound)
		}
		l, err := newTagLook(ctx, p)
		if err != nil {
			return nil, problem(err)
		}
		return &body[TagRow]{l.row(t)}, nil
	})
	get(s, "/api/projects/{project}/tag-ids", "The ids of the filtered tags", func(ctx context.Context, in *struct {
		Scope
		TagFilter
	}) (*body[[]string], error) {
		_, p, err := s.enter(ctx, in.Scope, looking)
		if err != nil {
			return nil, err
		}
		l, err := newTagLook(ctx, p)
		if err != nil {
			return nil, problem(err)
		}
		out := []string{}
		for _, t := range l.find(in.TagFilter) {
			out = append(out, t.ID)
		}
		return &body[[]string]{out}, nil
	})
	get(s, "/api/projects/{project}/folder-uses/{id}", "Where what lies in a folder is used from elsewhere",
		func(ctx context.Context, in *ThingInput) (*body[[]project.Use], error) {
			_, p, err := s.enter(ctx, in.Scope, looking)
			if err != nil {
				return nil, err
			}
			_, tags := p.Draft().Below(in.ID)
			out := append([]project.Use{}, p.Draft().UsesOf(tags)...)
			return &body[[]project.Use]{out[:min(len(out), 500)]}, nil
		})
	get(s, "/api/projects/{project}/folders", "The folders", func(ctx context.Context, in *Scope) (*body[[]FolderInfo], error) {
		_, p, err := s.enter(ctx, *in, looking)
		if err != nil {
			return nil, err
		}
		return &body[[]FolderInfo]{folders(p.Draft())}, nil
	})
	get(s, "/api/projects/{project}/uses/{id}", "Where a thing is used",
		func(ctx context.Context, in *ThingInput) (*body[[]project.Use], error) {
			_, p, err := s.enter(ctx, in.Scope, looking)
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

// tagLook is what the list shows beside a tag's definition.
type tagLook struct {
	p        *host.Project
	d        *project.Project
	severity map[string]string
	checks   *host.LoopChecks
	held     map[string]bool
}

func newTagLook(ctx context.Context, p *host.Project) (*tagLook, error) {
	checks, err := p.LoopChecks(ctx)
	l := &tagLook{p: p, d: p.Draft(), severity: worst(p.Draft()), checks: checks, held: map[string]bool{}}
	for _, o := range p.Overrides() {
		l.held[o.Tag] = true
	}
	return l, err
}

func (l *tagLook) row(t *tag.Tag) TagRow {
	path, _ := l.d.Path(t.ID)
	r := TagRow{Tag: *l.d.ShownTag(t), Path: path, Uses: len(l.d.Uses(t.ID)), Severity: l.severity[t.ID], Offers: []string{},
		Check: l.check(t), Held: l.held[t.ID]}
	if g, ok := l.d.GearTag(t.ID); ok {
		r.Gear = &g
	}
	if a, err := device.ParseAddress(t.Address); err == nil && t.Source == tag.Device {
		r.Reference = a.Reference()
	}
	for _, k := range screen.Offers(t) {
		r.Offers = append(r.Offers, k.Name)
	}
	if t.Source == tag.Device {
		b := l.d.Behaves(t)
		if r.Tag.Behaviour != nil {
			b = *r.Tag.Behaviour
		}
		r.Behaviour = &b
	}
	return r
}

// check is the state of a point's loop check, empty for what has none.
func (l *tagLook) check(t *tag.Tag) string {
	c, _ := l.checks.Of(t)
	if c.Outdated {
		return "outdated"
	}
	return c.Result
}

// find lists the tags that a filter leaves, in its order.
func (l *tagLook) find(f TagFilter) []*tag.Tag {
	words := wordsOf(f.Text)
	var texts []string
	if len(words) > 0 {
		texts = l.d.TagTexts()
	}
	var below map[string]bool
	if f.Folder != "" {
		below, _ = l.d.Below(f.Folder)
	}
	var hits []*tag.Tag
	for i, id := range l.d.SortedTags() {
		if texts != nil && !matches(words, texts[i]) {
			continue
		}
		t := l.d.Tags[id]
		switch {
		case below != nil && !below[t.Folder],
			f.Own && t.Folder != f.Folder,
			f.Device != "" && t.Device != f.Device,
			f.Type != "" && t.Type.Kind.String() != f.Type,
			f.Source != "" && string(t.Source) != f.Source,
			f.Check != "" && l.check(t) != f.Check,
			f.Only == "unused" && len(l.d.Uses(id)) > 0,
			f.Only == "findings" && l.severity[id] == "",
			f.Only == "writable" && !t.Writable(),
			f.Only == "held" && !l.held[id]:
			continue
		}
		hits = append(hits, t)
	}
	switch f.Only {
	case "bad":
		hits = l.ofLevel(hits, value.LevelBad)
	case "uncertain":
		hits = l.ofLevel(hits, value.LevelUncertain)
	}
	l.order(hits, f.Sort, f.Down)
	return hits
}

func (s *Server) listTags(ctx context.Context, in *tagQuery) (*body[TagPage], error) {
	_, p, err := s.enter(ctx, in.Scope, looking)
	if err != nil {
		return nil, err
	}
	l, err := newTagLook(ctx, p)
	if err != nil {
		return nil, problem(err)
	}
	hits := l.find(in.TagFilter)
	out := TagPage{Total: len(hits), Rows: []TagRow{}}
	for i := in.Offset; i < len(hits) && i < in.Offset+in.Limit; i++ {
		out.Rows = append(out.Rows, l.row(hits[i]))
	}
	return &body[TagPage]{out}, nil
}

func (l *tagLook) ofLevel(tags []*tag.Tag, level value.Level) []*tag.Tag {
	ids := make([]string, len(tags))
	for i, t := range tags {
		ids[i] = t.ID
	}
	var out []*tag.Tag
	for i, r := range l.p.ReadTags(run.Draft, ids) {
		if r.Value.Quality.Level() == level {
			out = append(out, tags[i])
		}
	}
	return out
}

func (l *tagLook) order(tags []*tag.Tag, by string, down bool) {
	less := map[string]func(a, b *tag.Tag) bool{
		"type":        func(a, b *tag.Tag) bool { return a.Type.String() < b.Type.String() },
		"source":      func(a, b *tag.Tag) bool { return string(a.Source)+a.Device < string(b.Source)+b.Device },
		"check":       func(a, b *tag.Tag) bool { return l.check(a) < l.check(b) },
		"description": func(a, b *tag.Tag) bool { return tag.Less(a.Description, b.Description) },
		"address": func(a, b *tag.Tag) bool {
			if a.Device != b.Device {
				return a.Device < b.Device
			}
			return tag.Less(a.Address, b.Address)
		},
		"uses": func(a, b *tag.Tag) bool { return len(l.d.Uses(a.ID)) < len(l.d.Uses(b.ID)) },
	}[by]
	if less != nil {
		sort.SliceStable(tags, func(i, j int) bool { return less(tags[i], tags[j]) })
	}
	if down {
		slices.Reverse(tags)
	}
}

// wordsOf are the words of a filter, in lower case.
func wordsOf(text string) []string { return strings.Fields(strings.ToLower(text)) }

// matches tells whether a text in lower case has every word.
func matches(words []string, text string) bool {
	for _, w := range words {
		if !wild(w, text) {
			return false
		}
	}
	return true
}

// wild matches a word with * for any run of characters, anywhere in a text.
func wild(word, text string) bool {
	for part := range strings.SplitSeq(word, "*") {
		i := strings.Index(text, part)
		if i < 0 {
			return false
		}
		text = text[i+len(part):]
	}
	return true
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
		piece, _ := d.Piece(id)
		out = append(out, FolderInfo{id, f.Parent, f.Name, d.FolderPath(id), count[id], piece.Type, piece.Instance, f.Record})
	}
	sort.Slice(out, func(i, j int) bool { return tag.Less(out[i].Path, out[j].Path) })
	return out
}

func (s *Server) find(ctx context.Context, in *struct {
	Scope
	Text string `query:"text" maxLength:"200"`
}) (*body[[]project.Hit], error) {
	who, p, err := s.enter(ctx, in.Scope, looking)
	if err != nil {
		return nil, err
	}
	words := wordsOf(in.Text)
	hits := p.Draft().Find(func(text string) bool { return matches(words, text) }, 40)
	kept, err := p.FindKept(ctx, who, strings.TrimSpace(in.Text))
	return &body[[]project.Hit]{append(hits, kept...)}, problem(err)
}

func (s *Server) checkFormula(ctx context.Context, in *struct {
	Scope
	Body struct {
		Formula string            `json:"formula" maxLength:"4000"`
		Wants   string            `json:"wants,omitempty" enum:",text,template,number,bool,colour" doc:"the property type that the formula drives"`
		Screen  string            `json:"screen,omitempty" maxLength:"64" doc:"whose parameters it may name"`
		Args    map[string]string `json:"args,omitempty" doc:"what the parameters stand for"`
	}
}) (*body[FormulaCheck], error) {
	_, p, err := s.enter(ctx, in.Scope, access.Engineer)
	if err != nil {
		return nil, err
	}
	r, err := p.TryFormula(in.Body.Formula, in.Body.Screen, in.Body.Args)
	out := FormulaCheck{OK: err == nil, Type: r.Kind.String(), Column: -1}
	var fe *formula.Error
	switch {
	case errors.As(err, &fe):
		out.Column, out.Length, out.Message = fe.Column, fe.Length, said(ctx, fe.Why)
	case err != nil:
		return nil, problem(err)
	case in.Body.Wants != "" && !screen.Accepts(screen.PropType(in.Body.Wants), r.Kind):
		out.OK, out.Column, out.Length = false, 0, len([]rune(in.Body.Formula))
		out.Message = said(ctx, say.Errorf("this gives %s; the property takes %s", strings.ToLower(r.Kind.String()),
			screen.Wants(screen.PropType(in.Body.Wants))))
	}
	if err == nil {
		out.Quality = r.Quality.Level().String()
		if r.Quality.IsBad() {
			out.Value = r.Quality.Reason().Say(heard(ctx))
		} else {
			out.Value = (&tag.Tag{}).Show(r, false)
		}
	}
	return &body[FormulaCheck]{out}, nil
}

func (s *Server) checkAddress(ctx context.Context, in *struct {
	Scope
	Address string `query:"address" maxLength:"1000"`
	Type    string `query:"type" maxLength:"16"`
	Device  string `query:"device" maxLength:"64" doc:"id; its protocol says what an address is"`
}) (*body[AddressCheck], error) {
	_, p, err := s.enter(ctx, in.Scope, looking)
	if err != nil {
		return nil, err
	}
	d := p.Draft().Devices[in.Device]
	if d == nil {
		m := device.New()
		d = &m
	}
	t := tag.Tag{Address: in.Address, Source: tag.Device, Access: tag.Read}
	if t.Type, err = value.ParseType(in.Type); err == nil {
		if d.Protocol == device.ModbusTCP && strings.HasPrefix(t.Address, "%") {
			t.Address, err = d.Located(t.Address, t.Type)
		}
		if err == nil {
			_, err = d.CheckTag(&t)
		}
	}
	if err != nil {
		return &body[AddressCheck]{AddressCheck{Message: said(ctx, err)}}, nil
	}
	d.Canonical(&t)
	out := AddressCheck{OK: true, Address: t.Address}
	if a, err := device.ParseAddress(t.Address); err == nil && d.Protocol == device.ModbusTCP {
		out.Reference = a.Reference()
	}
	return &body[AddressCheck]{out}, nil
}
