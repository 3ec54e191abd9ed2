package project

import (
	"fmt"
	"slices"
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// KindLog are the logs.
const KindLog = "log"

var logKind = &kindOf[history.Log]{
	ThingKind: ThingKind{Name: KindLog, Stop: StopHistory, Opens: true},
	of:        func(p *Project) *map[string]*history.Log { return &p.Logs },
	read: func(p *Project, id string, l *history.Log, shown bool) (*history.Log, error) {
		l.ID = id
		place, err := l.Check()
		if err == nil && shown {
			l, place, err = l.Convert(p.StoreFormula)
		}
		if err == nil && shown {
			l.Picks = p.storedPicks(l.Picks)
		}
		return l, at(place, err)
	},
	show: (*Project).ShownLog,
	name: func(_ *Project, _ string, l *history.Log) string { return l.Name },
	note: func(l *history.Log) string { return l.Note },
	refers: func(_ *Project, l *history.Log, say func(target, place, within string)) {
		for i, pick := range l.Picks {
			place := fmt.Sprintf("/picks/%d", i)
			say(pick.Tag, place, "")
			say(pick.Folder, place, "")
			say(pick.Type, place, "")
		}
		say(l.How.Alarm, "/how/alarm", "")
		say(l.Spans.Tag, "/spans/tag", "")
		say(l.Spans.Type, "/spans/type", "")
		for place, text := range l.Formulas() {
			for _, ref := range formula.References(*text) {
				say(ref, place, "")
			}
		}
	},
	check: func(c *checker) {
		for _, id := range SortedKeys(c.p.Logs) {
			(&logCheck{c, c.p.Logs[id]}).all()
		}
	},
}

// ShownLog returns a log with its formulas and patterns as people read them.
func (p *Project) ShownLog(l *history.Log) *history.Log {
	out, _, _ := l.Convert(func(f string) (string, error) { return formula.Show(f, p.wordPath), nil })
	out.Picks = p.shownPicks(out.Picks)
	return out
}

// storedPicks names the folder of a pattern by its id, so that it follows when the
// folder gets another name: Kiln1.Fan* is Fan* in Kiln1.
func (p *Project) storedPicks(picks []history.Pick) []history.Pick {
	out := slices.Clone(picks)
	for i := range out {
		pick := &out[i]
		if pick.Like == "" || pick.Folder != "" {
			continue
		}
		fixed, _, _ := strings.Cut(pick.Like, "*")
		for cut := strings.LastIndexByte(fixed, '.'); cut > 0; cut = strings.LastIndexByte(fixed[:cut], '.') {
			if id, ok := p.FindFolder(fixed[:cut]); ok {
				pick.Folder, pick.Like = id, pick.Like[cut+1:]
				break
			}
		}
	}
	return out
}

// shownPicks has patterns as people write them, from the top.
func (p *Project) shownPicks(picks []history.Pick) []history.Pick {
	out := slices.Clone(picks)
	for i := range out {
		if path := p.FolderPath(out[i].Folder); path != "" && out[i].Like != "" {
			out[i].Folder, out[i].Like = "", path+"."+out[i].Like
		}
	}
	return out
}

// namedTags are the tags that a log of a version names, looked for once: a pattern
// is compared with every path.
type namedTags struct {
	tags  []string
	lines []int // how many each line names
}

// LogTags are the ids of the tags that a log of the project keeps, those of its
// lines in order and each once. What is each viewer's own has no course. Nobody
// alters the slice.
func (p *Project) LogTags(l *history.Log) []string { return p.named(l).tags }

func (p *Project) named(l *history.Log) *namedTags {
	if known, ok := p.logged.Load(l.ID); ok {
		return known.(*namedTags)
	}
	out := &namedTags{lines: make([]int, len(l.Picks))}
	seen := map[string]bool{}
	for i, pick := range l.Picks {
		p.picked(pick, func(id string) {
			t := p.Tags[id]
			if t == nil || t.Own() {
				return
			}
			out.lines[i]++
			if !seen[id] {
				seen[id] = true
				out.tags = append(out.tags, id)
			}
		})
	}
	p.logged.Store(l.ID, out)
	return out
}

func (p *Project) picked(pick history.Pick, take func(id string)) {
	switch {
	case pick.Tag != "":
		take(p.Real(pick.Tag))
	case pick.Type != "":
		for _, of := range p.OfType(pick.Type, "") {
			take(p.Real(of + "." + pick.Member))
		}
	default:
		below := ""
		if path := p.FolderPath(pick.Folder); path != "" {
			below = path + "."
		} else if pick.Folder != "" {
			return
		}
		for _, id := range p.SortedTags() {
			if rest, ok := strings.CutPrefix(p.paths.of[id], below); ok && tag.Like(pick.Like, rest) {
				take(id)
			}
		}
	}
}

// Cut is what cuts a log into spans: a tag, and the equipment that it is of where
// every one of a type has spans of its own.
type Cut struct{ Tag, Of string }

// Cuts are what cuts a log into spans by values of tags.
func (p *Project) Cuts(l *history.Log) []Cut {
	if id := p.Real(l.Spans.Tag); p.Tags[id] != nil {
		return []Cut{{Tag: id}}
	}
	var out []Cut
	if l.Spans.Type != "" {
		for _, of := range p.OfType(l.Spans.Type, "") {
			if id := p.Real(of + "." + l.Spans.Member); p.Tags[id] != nil {
				out = append(out, Cut{id, of})
			}
		}
	}
	return out
}

// LogBand is the move of a tag that a log does not keep.
func (p *Project) LogBand(l *history.Log, id string) float64 {
	if l.How.Band != nil {
		return *l.How.Band
	}
	return p.Recorded()[id]
}

// LogLine is a line of a log's tags as people read it, and how many it names.
type LogLine struct {
	Pick  history.Pick `json:"pick" doc:"as it is edited"`
	Text  string       `json:"text" doc:"a path, a pattern, or a type and its member"`
	Count int          `json:"count"`
	// Every is the same member of every equipment of a type, where the line names
	// that of one.
	Every     *history.Pick `json:"every,omitempty"`
	EveryName string        `json:"everyName,omitempty" doc:"name of the type"`
}

// LogLines are the lines of a log's tags.
func (p *Project) LogLines(l *history.Log) []LogLine {
	out := make([]LogLine, len(l.Picks))
	for i, pick := range l.Picks {
		out[i] = p.logLine(pick)
		out[i].Count = p.named(l).lines[i]
	}
	return out
}

// LogCut is what cuts a log into spans by values, as a line; nil where none does.
func (p *Project) LogCut(l *history.Log) *LogLine {
	pick := history.Pick{Tag: l.Spans.Tag, Type: l.Spans.Type, Member: l.Spans.Member}
	if pick == (history.Pick{}) {
		return nil
	}
	line := p.logLine(pick)
	line.Count = len(p.Cuts(l))
	return &line
}

func (p *Project) logLine(pick history.Pick) LogLine {
	line := LogLine{Pick: p.shownPicks([]history.Pick{pick})[0]}
	switch {
	case pick.Tag != "":
		line.Text, _ = p.Path(p.Real(pick.Tag))
		g, made := p.gear.tags[p.Real(pick.Tag)]
		if e := p.Equipment[g.Instance]; made && e != nil && p.Types[e.Type] != nil {
			line.Every, line.EveryName = &history.Pick{Type: e.Type, Member: g.Chain}, p.Types[e.Type].Name
		}
	case pick.Type != "":
		line.Text = p.memberText(pick.Type, pick.Member)
	case pick.Like == "":
		line.Text = p.FolderPath(pick.Folder) + ".*"
	default:
		line.Text = line.Pick.Like
	}
	return line
}

// memberText is the member of a type as its first equipment has it.
func (p *Project) memberText(typ, member string) string {
	t := p.Types[typ]
	if t == nil {
		return member
	}
	for _, of := range p.OfType(typ, "") {
		if path, ok := p.Path(p.Real(of + "." + member)); ok {
			return t.Name + "." + strings.TrimPrefix(path, p.FolderPath(of)+".")
		}
	}
	return t.Name + "." + member
}

type logCheck struct {
	*checker
	l *history.Log
}

func (c *logCheck) say(rule string, sev Severity, place string, args ...any) {
	c.add(rule, sev, KindLog, c.l.ID, place, c.l.Name, args...)
}

func (c *logCheck) all() {
	if len(c.l.Picks) == 0 {
		c.say("log.empty", Warning, "/picks")
	}
	for i, pick := range c.l.Picks {
		c.pick(pick, i)
	}
	tags := c.p.LogTags(c.l)
	if len(tags) > history.MostLogTags {
		c.say("log.many", Error, "/picks", "count", fmt.Sprint(len(tags)), "most", fmt.Sprint(history.MostLogTags))
	}
	c.band(tags)
	if id := c.l.How.Alarm; id != "" && c.p.Alarms[id] == nil {
		c.say("log.alarm", Error, "/how/alarm")
	}
	if (c.l.Spans.Tag != "" || c.l.Spans.Type != "") && len(c.p.Cuts(c.l)) == 0 {
		c.say("log.spanTag", Error, "/spans")
	}
	if c.l.Keep.Stops && !c.alarmOn(func(t *tag.Tag) bool {
		return t.Log == c.l.ID && (t.System == "log.state" || t.System == "log.free")
	}) {
		c.say("log.full", Warning, "/keep/stops")
	}
	formulas := c.l.Formulas()
	for _, place := range SortedKeys(formulas) {
		c.condition(place, *formulas[place])
	}
}

// pick says of a line that it names nothing.
func (c *logCheck) pick(pick history.Pick, i int) {
	place := fmt.Sprintf("/picks/%d", i)
	switch {
	case pick.Tag != "" && c.p.Tags[c.p.Real(pick.Tag)] == nil:
		c.say("log.tag", Error, place)
	case pick.Folder != "" && c.p.Folders[pick.Folder] == nil:
		c.say("log.folder", Error, place)
	case pick.Type != "" && c.p.Types[pick.Type] == nil:
		c.say("log.type", Error, place)
	default:
		if c.p.named(c.l).lines[i] == 0 {
			c.say("log.nothing", Warning, place)
		}
	}
}

// band says of a band that keeps nothing of a tag.
func (c *logCheck) band(tags []string) {
	if c.l.How.Way != history.AtChanges || c.l.How.Band == nil {
		return
	}
	for _, id := range tags {
		if low, high, ok := c.p.Tags[id].Range(); ok && *c.l.How.Band >= high-low {
			path, _ := c.p.Path(id)
			c.say("log.band", Warning, "/how/band", "tag", path)
			return
		}
	}
}

func (c *logCheck) condition(place, stored string) {
	prog, err := formula.Compile(stored, c.p.Scope())
	if err != nil {
		c.formula(err, KindLog, c.l.ID, place, c.l.Name)
		return
	}
	if prog.Kind() != value.BOOL {
		c.say("log.condition", Error, place, "type", prog.Kind().String())
	}
	if len(formula.References(stored)) == 0 {
		c.say("log.constant", Warning, place)
	}
}
