package host

import (
	"context"
	"encoding/json"
	"math"
	"strconv"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// ChangedLimit is the limit of an alarm as it was changed at the Desk.
type ChangedLimit struct {
	Alarm    string    `json:"alarm"`
	Name     string    `json:"name"`
	Limit    string    `json:"limit"`
	Released string    `json:"released" doc:"what the release has"`
	Draft    string    `json:"draft" doc:"what the draft has; empty where the alarm is gone"`
	Person   string    `json:"person"`
	Reason   string    `json:"reason"`
	At       time.Time `json:"at"`
}

// LimitChoice is what becomes of a changed limit with the next release.
type LimitChoice string

// The choices.
const (
	KeepLimit    LimitChoice = "keep"    // it goes on lying over the release
	AdoptLimit   LimitChoice = "adopt"   // the draft takes it over
	DiscardLimit LimitChoice = "discard" // the draft's own counts
)

func (l *layer) loadLimits(ctx context.Context, s *store.State) error {
	list, err := s.AlarmLimits(ctx)
	l.limits = map[string]store.AlarmLimit{}
	for _, x := range list {
		l.limits[x.Alarm] = x
	}
	return err
}

// texts are the changed limits as a project takes them.
func (l *layer) texts() map[string]string {
	l.mu.Lock()
	defer l.mu.Unlock()
	out := make(map[string]string, len(l.limits))
	for id, x := range l.limits {
		out[id] = x.Value
	}
	return out
}

// runRelease runs a release with what was changed at the Desk over it.
func (p *Project) runRelease(plain *project.Project) {
	p.plain.Store(plain)
	p.run(Release, plain.WithLimits(p.layer.texts()))
	p.renewBeats(p.Released())
}

// ChangedLimits lists the limits that were changed at the Desk.
func (p *Project) ChangedLimits() []ChangedLimit {
	out := []ChangedLimit{}
	plain, draft := p.plain.Load(), p.Draft()
	if plain == nil {
		return out
	}
	p.layer.mu.Lock()
	defer p.layer.mu.Unlock()
	for _, id := range project.SortedKeys(p.layer.limits) {
		x, a := p.layer.limits[id], plain.Alarms[id]
		if a == nil {
			continue
		}
		c := ChangedLimit{Alarm: id, Name: plain.AlarmName(a), Limit: x.Value, Released: a.Limit, Person: x.Person, Reason: x.Reason,
			At: time.Unix(0, x.At)}
		if d := draft.Alarms[id]; d != nil {
			c.Draft = draft.ShownAlarm(d).Limit
		}
		out = append(out, c)
	}
	return out
}

// SetAlarmLimit changes the limit of an alarm of the release, at once; nil
// gives it back what the release says.
func (p *Project) SetAlarmLimit(ctx context.Context, who Actor, id string, limit *float64, reason string) error {
	if !p.May(ctx, who, access.Limits, true) {
		return p.Require(ctx, who, access.Limits, "")
	}
	p.editing.Lock()
	defer p.editing.Unlock()
	plain, running := p.plain.Load(), p.Released()
	if plain == nil || plain.Alarms[id] == nil {
		return ErrNotFound
	}
	a := plain.Alarms[id]
	if err := p.Require(ctx, who, access.Limits, plain.AlarmArea(a)); err != nil {
		return err
	}
	if reason = strings.TrimSpace(reason); reason == "" {
		return refused("say why the limit is changed")
	}
	text := a.Limit
	if limit != nil {
		if math.IsNaN(*limit) || math.IsInf(*limit, 0) {
			return refused("a limit is a number")
		}
		if err := running.CheckLimit(id, *limit); err != nil {
			return refused("%v", err)
		}
		text = strconv.FormatFloat(*limit, 'f', -1, 64)
	}
	now := time.Now().UnixNano()
	path, _ := plain.Path(a.Tag)
	if _, err := p.records.Trail.Append(ctx, audit.Record{At: now, What: audit.LimitSet, Person: who.ID, Name: who.Name, Panel: who.Panel,
		Element: a.Name, Path: path, Old: running.Alarms[id].Limit, New: text, Reason: reason}); err != nil {
		return err
	}
	var err error
	if text == a.Limit {
		err = p.state.DropAlarmLimits(ctx, []string{id})
	} else {
		err = p.state.PutAlarmLimit(ctx, store.AlarmLimit{Alarm: id, Value: text, Person: who.Name, Reason: reason, At: now})
	}
	if err != nil {
		return err
	}
	return p.limitsChanged(ctx)
}

// limitsChanged reads the changed limits anew and runs the release with them.
func (p *Project) limitsChanged(ctx context.Context) error {
	p.layer.mu.Lock()
	err := p.layer.loadLimits(ctx, p.state)
	p.layer.mu.Unlock()
	if err != nil {
		return err
	}
	p.run(Release, p.plain.Load().WithLimits(p.layer.texts()))
	p.alarmNews()
	return nil
}

// chooseLimits says what is to become of the changed limits with a release: the
// edits that adopt some, and those that no longer lie over it. An answer that is
// missing or cannot be refuses it all; nothing is changed here.
func (p *Project) chooseLimits(choices map[string]LimitChoice) (adopted []project.Op, gone []string, err error) {
	for _, c := range p.ChangedLimits() {
		switch choices[c.Alarm] {
		case KeepLimit:
		case DiscardLimit:
			gone = append(gone, c.Alarm)
		case AdoptLimit:
			gone = append(gone, c.Alarm)
			if c.Draft == "" {
				return nil, nil, refused("%s is no longer in the draft: its limit cannot be adopted", c.Name)
			}
			text, _ := json.Marshal(c.Limit)
			adopted = append(adopted, project.Op{Kind: project.KindAlarm, ID: c.Alarm, Path: "/limit", Value: text})
		default:
			return nil, nil, refused("the limit of %s was changed at the Desk: say whether to keep, adopt or discard it", c.Name)
		}
	}
	return adopted, gone, nil
}

// dropLimits takes limits away that no longer lie over the release. Those that
// could not be dropped go on lying over it, and show as changed.
func (p *Project) dropLimits(ctx context.Context, gone []string) {
	if len(gone) == 0 {
		return
	}
	err := p.state.DropAlarmLimits(ctx, gone)
	if err == nil {
		p.layer.mu.Lock()
		err = p.layer.loadLimits(ctx, p.state)
		p.layer.mu.Unlock()
	}
	if err != nil {
		p.host.log.Error("limits that were changed at the Desk still lie over the new release", "project", p.id, "error", err)
	}
}
