package project

import (
	"fmt"
	"reflect"
	"slices"
	"strings"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/equipment"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
)

// NewEquipment makes instances of a type, one for each row.
type NewEquipment struct {
	Type string         `json:"type" maxLength:"64"`
	Rows []EquipmentRow `json:"rows" minItems:"1" maxItems:"2000"`
}

// EquipmentRow is an instance to make.
type EquipmentRow struct {
	Path        string            `json:"path" maxLength:"250"`
	Device      string            `json:"device,omitempty" maxLength:"64" doc:"id or name"`
	Area        string            `json:"area,omitempty" maxLength:"64"`
	Description string            `json:"description,omitempty" maxLength:"500"`
	Settings    map[string]string `json:"settings,omitempty"`
}

// PlanEquipment says what the rows make, and the edit that makes it.
func (p *Project) PlanEquipment(n NewEquipment, newID func(string) string) (list []Planned, ops []Op, err error) {
	t := p.Types[n.Type]
	if t == nil {
		return nil, nil, say.New("there is no such type")
	}
	folders := NewFolders(p, newID)
	seen := map[string]bool{}
	for _, r := range n.Rows {
		item := Planned{Path: strings.TrimSpace(r.Path)}
		if err := tag.CheckPath(item.Path); err != nil {
			item.Problem.Why = err
		} else if _, there := p.FindFolder(item.Path); there || seen[tag.Key(item.Path)] {
			item.Problem.Why = say.New("there is already something of this path")
		}
		seen[tag.Key(item.Path)] = true
		e := equipment.Instance{ID: newID(KindEquipment), Name: item.Path, Type: n.Type, Area: r.Area, Description: r.Description,
			Settings: map[string]string{}}
		if i := strings.LastIndexByte(item.Path, '.'); i >= 0 && item.Problem.IsZero() {
			e.Folder, e.Name = folders.ID(item.Path[:i]), item.Path[i+1:]
		}
		if e.Device, err = p.deviceNamed(r.Device); err != nil {
			item.Problem.Why = err
		}
		for name, v := range r.Settings {
			if !slices.ContainsFunc(t.Settings, func(s equipment.Setting) bool { return s.Name == name }) {
				item.Problem.Why = say.Errorf("the type %s has no setting %s", t.Name, name)
			}
			if v != "" {
				e.Settings[name] = v
			}
		}
		x := equipment.Expand(&e, p.Type)
		if len(x.Problems) > 0 && item.Problem.IsZero() {
			item.Problem.Why = x.Problems[0].Why
		}
		item.From = fmt.Sprintf("%d tags", len(x.Tags))
		if len(x.Tags) > 0 {
			item.Address = x.Tags[0].Address
		}
		list = append(list, item)
		if item.Problem.IsZero() {
			ops = append(ops, Op{Kind: KindEquipment, ID: e.ID, Value: mustJSON(e)})
		}
	}
	return list, append(folders.Ops(), ops...), nil
}

func (p *Project) deviceNamed(name string) (string, error) {
	if name == "" || p.Devices[name] != nil {
		return name, nil
	}
	for id, d := range p.Devices {
		if strings.EqualFold(d.Name, name) {
			return id, nil
		}
	}
	return "", say.Errorf("there is no device %s", name)
}

// Detach says what makes plain folders, tags and alarms of an instance. Each keeps its
// id.
func (p *Project) Detach(instance string) ([]Op, error) {
	e := p.Equipment[instance]
	if e == nil {
		return nil, say.New("there is no such equipment")
	}
	m := p.gear.made[instance]
	ops := []Op{{Kind: KindEquipment, ID: instance}}
	for _, f := range m.folders {
		ops = append(ops, Op{Kind: KindFolder, ID: f, Value: mustJSON(p.Folders[f])})
	}
	for _, t := range m.tags {
		ops = append(ops, Op{Kind: KindTag, ID: t, Value: mustJSON(p.ShownTag(p.Tags[t]))})
	}
	for _, a := range m.alarms {
		ops = append(ops, Op{Kind: KindAlarm, ID: a, Value: mustJSON(p.ShownAlarm(p.Alarms[a]))})
	}
	return ops, nil
}

// Retype says what makes an instance one of another type. Members are matched
// by their paths and keep their ids; the others are listed.
func (p *Project) Retype(instance, typ string) (list []Planned, ops []Op, err error) {
	e, to := p.Equipment[instance], p.Types[typ]
	if e == nil || to == nil {
		return nil, nil, say.New("there is no such equipment or type")
	}
	from := p.Types[e.Type]
	next := *e
	next.Type, next.IDs, next.Differs = typ, map[string]string{}, nil
	if id := e.IDs[""]; id != "" {
		next.IDs[""] = id
	}
	old := map[string]string{}
	if from != nil {
		for _, c := range equipment.Chains(from, p.Type) {
			old[strings.ToLower(c.Path)] = c.Chain
		}
	}
	for _, c := range equipment.Chains(to, p.Type) {
		was, matched := old[strings.ToLower(c.Path)]
		item := Planned{Path: c.Path}
		if matched {
			item.From = c.Path
			delete(old, strings.ToLower(c.Path))
			if id := e.Real(was); id != instance+"."+c.Chain {
				next.IDs[c.Chain] = id
			}
		}
		list = append(list, item)
	}
	for _, path := range SortedKeys(old) {
		list = append(list, Planned{From: path, Address: "goes away"})
	}
	return list, []Op{{Kind: KindEquipment, ID: instance, Value: mustJSON(next)}}, nil
}

// Effect is what an edit would do to the tags and alarms of equipment.
type Effect struct {
	Instances int      `json:"instances"`
	New       int      `json:"new"`
	Changed   int      `json:"changed"`
	Gone      int      `json:"gone"`
	Lines     []string `json:"lines" doc:"at most 200"`
}

// EffectOf says what an edit would do to what equipment has, without doing
// it. The error is a *Refusal.
func (p *Project) EffectOf(ops []Op) (Effect, error) {
	next, _, err := p.Edit(ops)
	if err != nil {
		return Effect{}, err
	}
	out := Effect{Lines: []string{}}
	touched := map[string]bool{}
	line := func(name, what string) {
		if len(out.Lines) < 200 {
			out.Lines = append(out.Lines, name+": "+what)
		}
	}
	note := func(was, is bool, a, b GearTag, before, now string, changed func() string) {
		switch {
		case was && !is:
			out.Gone++
			touched[a.Instance] = true
			line(before, "goes away")
		case is && !was:
			out.New++
			touched[b.Instance] = true
			line(now, "new")
		default:
			if what := changed(); what != "" {
				out.Changed++
				touched[b.Instance] = true
				line(now, what)
			}
		}
	}
	for _, id := range SortedKeys(union(p.gear.tags, next.gear.tags)) {
		a, was := p.gear.tags[id]
		b, is := next.gear.tags[id]
		note(was, is, a, b, p.paths.of[id], next.paths.of[id], func() string {
			if p.paths.of[id] == next.paths.of[id] && reflect.DeepEqual(p.Tags[id], next.Tags[id]) {
				return ""
			}
			return changedOf(p, next, KindTag, id)
		})
	}
	for _, id := range SortedKeys(union(p.gear.alarms, next.gear.alarms)) {
		a, was := p.gear.alarms[id]
		b, is := next.gear.alarms[id]
		x, y := p.Alarms[id], next.Alarms[id]
		note(was, is, a, b, p.madeAlarmName(x), next.madeAlarmName(y), func() string {
			if *x == *y {
				return ""
			}
			return changedOf(p, next, KindAlarm, id)
		})
	}
	out.Instances = len(touched)
	return out, nil
}

func (p *Project) madeAlarmName(a *alarm.Alarm) string {
	if a == nil {
		return ""
	}
	return p.AlarmName(a)
}

func changedOf(p, next *Project, kind, id string) string {
	var out []string
	if a, b := p.paths.of[id], next.paths.of[id]; a != b {
		out = append(out, "was "+a)
	}
	a, _ := p.Shown(kind, id)
	b, _ := next.Shown(kind, id)
	var x, y map[string]any
	if parsed(a) != nil && parsed(b) != nil {
		x, _ = parsed(a).(map[string]any)
		y, _ = parsed(b).(map[string]any)
	}
	for _, name := range SortedKeys(union(x, y)) {
		if name != "name" && !reflect.DeepEqual(x[name], y[name]) {
			out = append(out, fmt.Sprintf("%s %v → %v", name, dash(x[name]), dash(y[name])))
		}
	}
	return strings.Join(out, ", ")
}

func dash(v any) any {
	if v == nil {
		return "—"
	}
	return v
}
