package record

import (
	"context"
	"encoding/json"
	"strconv"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/engine"
)

// Proposal asks what other settings of an alarm would have done.
type Proposal struct {
	Hours float64                    `json:"hours" minimum:"0.05" maximum:"720" doc:"how far back"`
	Set   map[string]json.RawMessage `json:"set,omitempty" doc:"properties of the alarm as proposed, in shown form"`
	Cure  bool                       `json:"cure,omitempty" doc:"look for settings that would have kept it from being a nuisance"`
}

// Lived is what settings did over a recorded time.
type Lived struct {
	Count    int        `json:"count" doc:"how often it came"`
	Stood    float64    `json:"stood" doc:"seconds in all"`
	Longest  float64    `json:"longest" doc:"seconds"`
	Chatter  int        `json:"chatter" doc:"episodes of three or more within a minute"`
	Fleeting int        `json:"fleeting" doc:"times that it was gone within ten seconds"`
	Spells   [][2]int64 `json:"spells" doc:"milliseconds since 1970; an end of 0 stands yet; the newest 500"`
}

// Cure is a setting that would have helped.
type Cure struct {
	Setting string  `json:"setting" enum:"deadband,offDelay,onDelay"`
	Value   float64 `json:"value"`
	Count   int     `json:"count"`
	Stood   float64 `json:"stood" doc:"seconds"`
}

// Played is what an alarm did and would have done.
type Played struct {
	From     int64         `json:"from" doc:"milliseconds since 1970"`
	To       int64         `json:"to"`
	Since    int64         `json:"since" doc:"when its signal's first sample of the time was taken; 0 for none"`
	Points   []CoursePoint `json:"points" doc:"of the signal"`
	Now      Lived         `json:"now" doc:"with its present settings"`
	Proposed Lived         `json:"proposed"`
	Limit    *float64      `json:"limit,omitempty" doc:"where it is a number"`
	Cures    []Cure        `json:"cures"`
}

// CoursePoint is a part of a signal's course, until the next one.
type CoursePoint struct {
	At   int64   `json:"at" doc:"milliseconds since 1970"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
	Bad  bool    `json:"bad,omitempty" doc:"nothing is known of it"`
}

const (
	mostSamples = 500_000 // of one signal
	mostPoints  = 600
	mostSpells  = 500
)

// Play plays what was recorded through an alarm as it is and as proposed. What
// the person proposed and cannot be is a *CannotBe.
func (r *Recorder) Play(ctx context.Context, version *project.Project, id string, ask Proposal) (*Played, error) {
	now, err := version.AlarmWith(id, nil)
	if err != nil {
		return nil, err
	}
	proposed, err := version.AlarmWith(id, ask.Set)
	if err != nil {
		return nil, &CannotBe{err}
	}
	to := time.Now()
	from := to.Add(-time.Duration(ask.Hours * float64(time.Hour)))
	course := engine.Course{}
	for _, a := range []*alarm.Alarm{now, proposed} {
		for _, tag := range version.AlarmInputs(a) {
			if course[tag] != nil {
				continue
			}
			if course[tag], err = r.Course(ctx, tag, from.UnixNano(), to.UnixNano()); err != nil {
				return nil, err
			}
		}
	}
	out := &Played{From: from.UnixMilli(), To: to.UnixMilli(), Points: []CoursePoint{}, Cures: []Cure{}}
	signal := course[now.Tag]
	if len(signal) > 0 {
		out.Since = max(signal[0].At/1e6, out.From)
		out.Points = Points(signal, from.UnixNano(), to.UnixNano())
	}
	if f, err := strconv.ParseFloat(proposed.Limit, 64); err == nil {
		out.Limit = &f
	}
	was, err := engine.Replay(version, now, course, from, to)
	if err != nil {
		return nil, &CannotBe{err}
	}
	would, err := engine.Replay(version, proposed, course, from, to)
	if err != nil {
		return nil, &CannotBe{err}
	}
	out.Now, out.Proposed = lived(was), lived(would)
	if ask.Cure {
		cures, err := engine.Cures(version, now, course, from, to)
		if err != nil {
			return nil, &CannotBe{err}
		}
		for _, c := range cures {
			out.Cures = append(out.Cures, Cure{c.Setting, c.Value, c.Count, c.Stood.Seconds()})
		}
	}
	return out, nil
}

func lived(r engine.Replayed) Lived {
	out := Lived{Count: r.Count, Stood: r.Stood.Seconds(), Longest: r.Longest.Seconds(), Chatter: r.Chatter, Fleeting: r.Fleeting,
		Spells: [][2]int64{}}
	for _, s := range r.Spells[max(0, len(r.Spells)-mostSpells):] {
		to := int64(0)
		if !s.To.IsZero() {
			to = s.To.UnixMilli()
		}
		out.Spells = append(out.Spells, [2]int64{s.From.UnixMilli(), to})
	}
	return out
}

// Points draws a course in at most mostPoints parts, each with its lowest and
// its highest value, so that no peak is lost.
func Points(list []history.Sample, from, to int64) []CoursePoint {
	part := max(1, (to-from)/mostPoints)
	out := []CoursePoint{}
	at := int64(-1)
	for _, s := range list {
		t := max(s.At, from)
		n, bad := (t-from)/part, s.Quality.IsBad()
		if last := len(out) - 1; n == at && out[last].Bad == bad {
			out[last].Low, out[last].High = min(out[last].Low, s.Value), max(out[last].High, s.Value)
			continue
		}
		at = n
		out = append(out, CoursePoint{t / 1e6, s.Value, s.Value, bad})
	}
	return out
}

// CannotBe says why settings cannot be played.
type CannotBe struct{ error }

func (c *CannotBe) Unwrap() error { return c.error }
