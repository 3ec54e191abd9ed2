package host

import (
	"context"
	"encoding/json"
	"math"
	"slices"
	"strconv"
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

// ChangedLimits lists the limits that were changed at the Desk.
func (p *Project) ChangedLimits() []ChangedLimit {
	out := []ChangedLimit{}
	plain, draft := p.runs.Plain(), p.Draft()
	if plain == nil {
		return out
	}
	for _, x := range p.runs.Limits() {
		a := plain.Alarms[x.Alarm]
		if a == nil {
			continue
		}
		c := ChangedLimit{Alarm: x.Alarm, Name: plain.AlarmName(a), Limit: x.Value, Released: a.Limit, Person: x.Person, Reason: x.Reason,
			At: time.Unix(0, x.At)}
		if d := draft.Alarms[x.Alarm]; d != nil {
			c.Draft = draft.ShownAlarm(d).Limit
		}
		out = append(out, c)
	}
	return out
}

// LimitsSeen are the changed limits of alarms in areas that a person may look at.
func (p *Project) LimitsSeen(ctx context.Context, who Actor) ([]ChangedLimit, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	plain := p.runs.Plain()
	return slices.DeleteFunc(p.ChangedLimits(), func(c ChangedLimit) bool {
		a := plain.Alarms[c.Alarm]
		return a == nil || p.Require(ctx, who, access.View, plain.AlarmArea(a)) != nil
	}), nil
}

// LimitOrder is another limit for an alarm, and what is answered to what it asks.
type LimitOrder struct {
	Limit    *float64 `json:"limit,omitempty" doc:"absent gives back the release's"`
	Language string   `json:"language,omitempty" maxLength:"12" doc:"of what is asked; empty for the project's first"`
	Given
}

// SetAlarmLimit changes the limit of an alarm of the release, at once, or gives
// it back what the release says. Where something is asked that the order doesn't
// answer nothing is changed, and the error is an *Asks.
func (p *Project) SetAlarmLimit(ctx context.Context, who Actor, id string, order LimitOrder) error {
	if err := p.Somewhere(ctx, who, access.Limits); err != nil {
		return err
	}
	return p.Alone(func() error { return p.setLimit(ctx, who, id, order) })
}

// setLimit is called while nobody edits or releases.
func (p *Project) setLimit(ctx context.Context, who Actor, id string, order LimitOrder) error {
	plain, running := p.runs.Plain(), p.Released()
	if plain == nil || plain.Alarms[id] == nil {
		return ErrNotFound
	}
	a := plain.Alarms[id]
	if err := p.Require(ctx, who, access.Limits, plain.AlarmArea(a)); err != nil {
		return err
	}
	reason, err := tidyReason(order.Reason)
	if err != nil {
		return err
	}
	text := a.Limit
	if limit := order.Limit; limit != nil {
		if math.IsNaN(*limit) || math.IsInf(*limit, 0) {
			return refused("a limit is a number")
		}
		if err := running.CheckLimit(id, *limit); err != nil {
			return refused("%v", err)
		}
		text = strconv.FormatFloat(*limit, 'f', -1, 64)
	}
	asked := running.AskedOfAlarm(a, access.DoesLimit, p.rolesOf(ctx, who, access.Limits))
	sign := &undersigned{p, running, who, asked, order.Given, access.Limits, []string{plain.AlarmArea(a)}, plain.AlarmName(a)}
	signed, err := sign.ask(ctx, order.Language)
	if err != nil {
		return err
	}
	now := time.Now().UnixNano()
	path, _ := plain.Path(a.Tag)
	if _, err := p.records.Trail.Append(ctx, audit.Record{At: now, What: audit.LimitSet, Person: who.ID, Name: who.Name, Panel: who.Panel,
		Tag: a.Tag, Element: a.Name, Path: path, Old: running.Alarms[id].Limit, New: text, Reason: reason, Sign: signed.Sign,
		Captured: signed.Captured}); err != nil {
		return err
	}
	if text == a.Limit {
		err = p.runs.GiveLimitBack(ctx, id)
	} else {
		err = p.runs.PutLimit(ctx, store.AlarmLimit{Alarm: id, Value: text, Person: who.Name, Reason: reason, At: now})
	}
	p.alarmNews()
	return err
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
