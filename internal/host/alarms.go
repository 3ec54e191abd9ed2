package host

import (
	"cmp"
	"context"
	"slices"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/engine"
	"readyrail/internal/run"
)

// StandingAlarm is an alarm as it stands, for lists at the Desk and in the
// Workshop.
type StandingAlarm struct {
	ID       string         `json:"id"`
	Name     string         `json:"name"`
	Path     string         `json:"path" doc:"of its signal"`
	Tag      string         `json:"tag"`
	Kind     alarm.Kind     `json:"kind" enum:"high-high,high,low,low-low,state,deviation,rate,discrepancy,quality,formula"`
	State    alarm.Standing `json:"state" enum:"normal,unacknowledged,acknowledged,returned,latched-unack,latched-ack,shelved,suppressed,out-of-service"`
	Priority alarm.Priority `json:"priority" enum:"critical,high,medium,low"`
	Area     string         `json:"area"`
	AreaName string         `json:"areaName"`
	Group    string         `json:"group"`
	Active   bool           `json:"active" doc:"its condition holds"`
	Bad      bool           `json:"bad" doc:"its condition cannot be told now"`
	Since    time.Time      `json:"since"`
	Raised   time.Time      `json:"raised,omitzero"`
	Until    time.Time      `json:"until,omitzero"`
	Text     string         `json:"text"`
	Value    string         `json:"value"`
	Limit    string         `json:"limit"`
	By       string         `json:"by"`
	Reason   string         `json:"reason"`
	Longest  int            `json:"longest" doc:"minutes that it may be shelved; 0 for not at all"`
	Screen   string         `json:"screen"`
	// SetLimit is the limit where it may be changed at the Desk; empty otherwise.
	SetLimit string         `json:"setLimit,omitempty"`
	Points   int            `json:"points,omitempty" doc:"of a lost link: how many points of its device it stands for"`
	Of       string         `json:"of" doc:"the equipment that its signal belongs to, the whole instance; empty for none"`
	Guidance alarm.Guidance `json:"guidance"`
}

// AlarmBoard is what a person sees of the alarms.
type AlarmBoard struct {
	// Number is that of the last change that the board has; the live connection
	// tells the present one.
	Number int64                  `json:"number"`
	Alarms []StandingAlarm        `json:"alarms" doc:"by priority, then active before returned, then unacknowledged before acknowledged, then the newest first"`
	Counts map[alarm.Priority]int `json:"counts" doc:"annunciated ones, those set aside not among them"`
	Unseen map[alarm.Priority]int `json:"unseen" doc:"those that wait for acknowledgement"`
	First  map[string]string      `json:"first" doc:"by group: the id of the one that came first"`
	MayAck bool                   `json:"mayAck"`
	May    bool                   `json:"mayShelve"`
	Limits bool                   `json:"mayLimit"`
	// Unrecorded is how much of what was done cannot be recorded now, as the disk
	// does not take it; it is recorded as soon as it does.
	Unrecorded int `json:"unrecorded"`
}

// Alarms tells how the alarms stand, as far as a person may see them, in a
// language of the project; all takes the normal ones too.
func (p *Project) Alarms(ctx context.Context, who Actor, program run.Program, all bool, language string) (*AlarmBoard, error) {
	version, runner := p.runs.Version(program), p.runs.Runner(program)
	out := &AlarmBoard{Alarms: []StandingAlarm{}, Counts: map[alarm.Priority]int{}, Unseen: map[alarm.Priority]int{},
		First: map[string]string{}}
	if version == nil || runner == nil {
		return out, nil
	}
	if program == run.Release {
		if err := p.Somewhere(ctx, who, access.View); err != nil {
			return nil, err
		}
	}
	out.Unrecorded = p.runs.Unrecorded()
	out.Number = p.runs.Board(program) // before the list: what comes between is asked for again
	var list []engine.Alarm
	runner.Do(func(e *engine.Engine) { list = e.Alarms() })
	may := areaRights{p: p, ctx: ctx, who: who, known: map[string]bool{}}
	first := map[string]time.Time{}
	for _, a := range list {
		if a.Standing == alarm.Normal && !all {
			continue
		}
		s := standing(version, a, language)
		if !may.has(access.View, s.Area) {
			continue
		}
		out.Alarms = append(out.Alarms, s)
		if !a.Standing.Annunciated() {
			continue
		}
		out.Counts[a.Priority]++
		if a.Standing.Unseen() {
			out.Unseen[a.Priority]++
		}
		if at, ok := first[a.Group]; a.Group != "" && a.Active && (!ok || a.Raised.Before(at)) {
			first[a.Group], out.First[a.Group] = a.Raised, a.Alarm.ID
		}
	}
	slices.SortStableFunc(out.Alarms, func(a, b StandingAlarm) int {
		if d := a.Priority.Rank() - b.Priority.Rank(); d != 0 {
			return d
		}
		if d := urgency(b) - urgency(a); d != 0 {
			return d
		}
		if d := b.Raised.Compare(a.Raised); d != 0 {
			return d
		}
		return tag.Compare(a.Path+a.Name, b.Path+b.Name)
	})
	// Acts are on the alarms of what runs: a board of the draft, or of what is
	// tried, is to be looked at.
	acts := func(r access.Right) bool { return program == run.Release && p.May(ctx, who, r, true) }
	out.Limits, out.MayAck, out.May = acts(access.Limits), acts(access.Acknowledge), acts(access.Shelve)
	return out, nil
}

// urgency orders alarms of one priority: what is there before what was, what
// nobody has seen before what somebody has.
func urgency(a StandingAlarm) int {
	n := 0
	if a.Active {
		n += 2
	}
	if a.State.Unseen() {
		n++
	}
	return n
}

func standing(version *project.Project, a engine.Alarm, language string) StandingAlarm {
	path, _ := version.Path(a.Tag)
	area := version.AlarmArea(a.Alarm)
	of := ""
	if g, ok := version.GearTag(a.Tag); ok {
		of = version.Equipment[g.Instance].Real("")
	}
	limit := ""
	if _, ok := project.AdjustableLimit(a.Alarm); ok {
		limit = a.Alarm.Limit
	}
	guidance := a.Guidance
	for _, text := range []*string{&guidance.Cause, &guidance.Consequence, &guidance.Action} {
		*text = version.Word(language, *text)
	}
	points := 0
	if t := version.Tags[a.Tag]; t != nil && t.Source == tag.System && t.Device != "" && a.Active {
		points = version.PointsOf(t.Device)
	}
	return StandingAlarm{Points: points, Of: of, SetLimit: limit, ID: a.Alarm.ID, Name: version.Word(language, a.Alarm.Name), Path: path,
		Tag: a.Tag, Kind: a.Kind, State: a.Standing, Priority: a.Priority, Area: area, AreaName: version.Word(language, version.AreaName(area)),
		Group:  a.Group,
		Active: a.Active, Bad: a.Bad, Since: a.Since, Raised: a.Raised, Until: a.Until, Text: cmp.Or(a.Texts[language], a.Text), Value: a.Value,
		Limit: a.Bound, By: a.By, Reason: a.Reason, Longest: a.Longest(), Screen: a.Screen, Guidance: guidance}
}

// areaRights asks once for each area.
type areaRights struct {
	p     *Project
	ctx   context.Context
	who   Actor
	known map[string]bool
}

func (r *areaRights) has(right access.Right, area string) bool {
	key := string(right) + "/" + area
	ok, known := r.known[key]
	if !known {
		ok = r.p.Require(r.ctx, r.who, right, area) == nil
		r.known[key] = ok
	}
	return ok
}

// alarmNews tells the desks that alarms changed, at most four times a second.
func (p *Project) alarmNews() {
	if !p.alarmsTold.CompareAndSwap(false, true) {
		return
	}
	time.AfterFunc(alarmNewsEvery, func() {
		p.alarmsTold.Store(false)
		p.news.tell(News{Project: p.id, Revision: p.Revision(), Things: []string{"alarms/1"}})
	})
}

const alarmNewsEvery = 250 * time.Millisecond
