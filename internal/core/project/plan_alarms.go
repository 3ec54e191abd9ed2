package project

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/say"
)

// alarmColumn is a column of a list of alarms: a text, a number, a BOOL, or one
// whose words are looked up.
type alarmColumn struct {
	name string
	path string // of the alarm's document; guidance.cause lies in guidance
	kind byte   // t text, n number, b BOOL, a area, s screen
}

var alarmColumns = []alarmColumn{
	{"kind", "kind", 't'}, {"limit", "limit", 't'}, {"target", "target", 't'}, {"condition", "condition", 't'},
	{"inverted", "inverted", 'b'}, {"window", "window", 'n'}, {"side", "side", 't'},
	{"deadband", "deadband", 'n'}, {"onDelay", "onDelay", 'n'}, {"offDelay", "offDelay", 'n'}, {"latch", "latch", 'b'},
	{"noAck", "noAck", 'b'}, {"onBad", "onBad", 'b'}, {"priority", "priority", 't'},
	{"area", "area", 'a'}, {"group", "group", 't'}, {"class", "class", 't'}, {"suppress", "suppress", 't'},
	{"suppressWhy", "suppressWhy", 't'}, {"off", "off", 'b'}, {"shelveMinutes", "shelveMinutes", 'n'},
	{"message", "message", 't'}, {"gone", "gone", 't'}, {"cause", "guidance.cause", 't'}, {"consequence", "guidance.consequence", 't'},
	{"action", "guidance.action", 't'}, {"respond", "guidance.respond", 'n'}, {"severity", "guidance.severity", 't'},
	{"screen", "screen", 's'}, {"atDesk", "atDesk", 'b'}, {"reviewed", "reviewed", 'b'},
}

// AlarmHeader names the columns of a list of alarms: the signal's path and the
// alarm's name say which it is.
func AlarmHeader() []string {
	out := []string{"signal", "name"}
	for _, c := range alarmColumns {
		out = append(out, c.name)
	}
	return out
}

// AlarmLine is an alarm as a line of a list, by AlarmHeader.
func (p *Project) AlarmLine(a *alarm.Alarm) []string {
	path, _ := p.Path(a.Tag)
	out := []string{path, a.Name}
	doc := flat(mustJSON(p.ShownAlarm(a)))
	for _, c := range alarmColumns {
		text := ""
		switch v := doc[c.path].(type) {
		case string:
			text = v
		case float64:
			text = strconv.FormatFloat(v, 'f', -1, 64)
		case bool:
			text = strconv.FormatBool(v)
		}
		switch {
		case c.kind == 'a' && text != "":
			text = p.AreaName(text)
		case c.kind == 's' && p.Screens[text] != nil:
			text = p.Screens[text].Name
		}
		out = append(out, text)
	}
	return out
}

// flat is an alarm's document with what lies within guidance beside the rest.
func flat(doc json.RawMessage) map[string]any {
	out := map[string]any{}
	_ = json.Unmarshal(doc, &out)
	if g, ok := out["guidance"].(map[string]any); ok {
		for k, v := range g {
			out["guidance."+k] = v
		}
		delete(out, "guidance")
	}
	return out
}

// PlanAlarms says what a list of alarms would make and change, and the edit
// that does it. The first line names the columns; what has no column stays as
// it is, and alarms that the list does not name are left alone.
func (p *Project) PlanAlarms(cells [][]string, newID func(string) string) (list []Planned, ops []Op, err error) {
	if len(cells) == 0 {
		return nil, nil, say.New("the list is empty")
	}
	at := map[string]int{}
	known := AlarmHeader()
	for i, name := range cells[0] {
		name = strings.TrimSpace(name)
		k := slices.IndexFunc(known, func(x string) bool { return strings.EqualFold(x, name) })
		if k < 0 {
			return nil, nil, say.Errorf("column %d: %q is no column of a list of alarms: they are %s", i+1, name, strings.Join(known, ", "))
		}
		if _, twice := at[known[k]]; twice {
			return nil, nil, say.Errorf("column %d: there are two columns %s", i+1, known[k])
		}
		at[known[k]] = i
	}
	if _, ok := at["name"]; !ok {
		return nil, nil, say.New("there is no column name")
	}
	existing := map[string]string{}
	for id, a := range p.Alarms {
		path, _ := p.Path(a.Tag)
		existing[alarmKey(path, a.Name)] = id
	}
	seen := map[string]bool{}
	for _, row := range cells[1:] {
		cell := func(column string) (string, bool) {
			i, ok := at[column]
			if !ok || i >= len(row) {
				return "", ok
			}
			return strings.TrimSpace(row[i]), true
		}
		signal, _ := cell("signal")
		name, _ := cell("name")
		item, op := Planned{Path: strings.Trim(signal+" · "+name, " ·")}, Op{}
		key := alarmKey(signal, name)
		if seen[key] {
			item.Problem.Why = say.New("it stands in the list twice")
		} else {
			op, item.From, err = p.planAlarm(existing[key], signal, name, cell, newID)
			if err != nil {
				item.Problem.Why = err
			}
		}
		seen[key] = true
		list = append(list, item)
		if item.Problem.IsZero() && op.Kind != "" {
			ops = append(ops, op)
		}
	}
	return list, ops, nil
}

func alarmKey(path, name string) string { return strings.ToLower(path + "\x00" + name) }

func (p *Project) planAlarm(id, signal, name string, cell func(string) (string, bool), newID func(string) string) (op Op, what string,
	err error) {
	doc := map[string]any{"name": name, "kind": "high", "priority": "low"}
	what = "new"
	if id != "" {
		doc = flat(mustJSON(p.ShownAlarm(p.Alarms[id])))
		what = ""
	} else {
		tag, ok := p.FindPath(signal)
		if kind, _ := cell("kind"); !ok && kind != string(alarm.Formula) {
			return op, "", say.Errorf("there is no tag %q", signal)
		}
		if ok {
			doc["tag"] = tag
		}
	}
	var changes []string
	for _, c := range alarmColumns {
		text, given := cell(c.name)
		if !given {
			continue
		}
		v, err := p.alarmCell(c, text)
		if err != nil {
			return op, "", say.Errorf("%s: %w", c.name, err)
		}
		if v == doc[c.path] {
			continue
		}
		changes = append(changes, fmt.Sprintf("%s %v → %v", c.name, dash(doc[c.path]), dash(v)))
		if v == nil {
			delete(doc, c.path)
		} else {
			doc[c.path] = v
		}
	}
	if id != "" && len(changes) == 0 {
		return op, "same", nil
	}
	guidance := map[string]any{}
	for k, v := range doc {
		if inner, ok := strings.CutPrefix(k, "guidance."); ok {
			guidance[inner] = v
			delete(doc, k)
		}
	}
	if len(guidance) > 0 {
		doc["guidance"] = guidance
	}
	if id == "" {
		id = newID(KindAlarm)
	} else {
		what = strings.Join(changes, ", ")
	}
	doc["id"] = id
	op = Op{Kind: KindAlarm, ID: id, Value: mustJSON(doc)}
	// Each by itself, so that a refusal names its line.
	if _, _, err := p.Edit([]Op{op}); err != nil {
		return op, "", err
	}
	return op, what, nil
}

// alarmCell reads a cell; an empty one takes what stands there away.
func (p *Project) alarmCell(c alarmColumn, text string) (any, error) {
	if text == "" {
		return nil, nil
	}
	switch c.kind {
	case 'n':
		f, err := strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
		if err != nil {
			return nil, say.Errorf("%q is no number", text)
		}
		if f == 0 {
			return nil, nil
		}
		return f, nil
	case 'b':
		switch strings.ToLower(text) {
		case "true", "yes", "x", "1":
			return true, nil
		case "false", "no", "0":
			return nil, nil
		}
		return nil, say.Errorf("%q: write true or false", text)
	case 'a':
		for _, a := range p.Site().Areas {
			if strings.EqualFold(a.Name, text) || a.ID == text {
				return a.ID, nil
			}
		}
		return nil, say.Errorf("there is no area %q", text)
	case 's':
		for _, id := range SortedKeys(p.Screens) {
			if strings.EqualFold(p.Screens[id].Name, text) || id == text {
				return id, nil
			}
		}
		return nil, say.Errorf("there is no screen %q", text)
	}
	return text, nil
}
