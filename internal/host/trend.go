package host

import (
	"context"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/record"
)

// TrendLine is the recorded course of a tag: a pen for what is a number, a row
// for a BOOL, for states and for a text.
type TrendLine struct {
	Tag      string            `json:"tag"`
	Path     string            `json:"path"`
	Text     string            `json:"text" doc:"description"`
	Unit     string            `json:"unit"`
	Decimals int               `json:"decimals" doc:"that are shown; -1 for as many as there are"`
	Low      *float64          `json:"low,omitempty" doc:"of its range"`
	High     *float64          `json:"high,omitempty"`
	Limits   []TrendMark       `json:"limits" doc:"of its alarms"`
	Pen      *record.Pen       `json:"pen,omitempty"`
	Row      *record.SignalRow `json:"row,omitempty"`
}

// TrendMark is where an alarm's limit lies.
type TrendMark struct {
	Name  string  `json:"name"`
	Value float64 `json:"value"`
}

// Trend is what was recorded of tags in a range.
type Trend struct {
	From  int64       `json:"from" doc:"milliseconds since 1970"`
	To    int64       `json:"to"`
	Alive int64       `json:"alive" doc:"the newest moment that is recorded"`
	Lines []TrendLine `json:"lines" doc:"of the tags that there are, in the order in which they were asked for"`
}

// Period is a recorded time that is asked about: as the recorder has it, or a log.
type Period struct {
	From, To time.Time
	Log      string // id; empty for the recorder
}

// Bounds of one question.
const longestSpan = history.LongestSpan * time.Second

// Trend reads the courses of tags in a range, of those that a person may see, by
// at most so many points each.
func (p *Project) Trend(ctx context.Context, who Actor, ids []string, in Period, points int) (*Trend, error) {
	reader, err := p.mayRead(ctx, who, ids, in)
	if err != nil {
		return nil, err
	}
	from, to := in.From.UnixNano(), in.To.UnixNano()
	out := &Trend{From: in.From.UnixMilli(), To: in.To.UnixMilli(), Alive: reader.Alive() / 1e6, Lines: []TrendLine{}}
	for _, id := range ids {
		version, t := p.recordedTag(id)
		if t == nil {
			continue
		}
		if err := p.Require(ctx, who, access.View, version.AreaOf(t)); err != nil {
			return nil, err
		}
		line := trendLine(version, t)
		if asRow(t) {
			show := func(v value.Value) string { return t.Show(v, false) }
			line.Row, err = reader.Row(ctx, t, from, to, points, show)
		} else {
			line.Pen, err = reader.Pen(ctx, t.ID, from, to, points)
		}
		if err != nil {
			return nil, err
		}
		out.Lines = append(out.Lines, line)
	}
	return out, nil
}

// mayRead is mayAsk, and gives who reads what is asked for.
func (p *Project) mayRead(ctx context.Context, who Actor, ids []string, in Period) (*record.Recorder, error) {
	if err := p.mayAsk(ctx, who, ids, in.From, in.To); err != nil {
		return nil, err
	}
	if in.Log == "" {
		return p.records.Recorder, nil
	}
	if log := p.records.Logs.Log(in.Log); log != nil {
		return log.Reader(), nil
	}
	return nil, errNoLog
}

// mayAsk refuses a question of somebody who sees nothing of the project, and one
// that is too large.
func (p *Project) mayAsk(ctx context.Context, who Actor, ids []string, from, to time.Time) error {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return err
	}
	switch {
	case !to.After(from):
		return refused("the time ends before it begins")
	case to.Sub(from) > longestSpan:
		return refused("at most %d days are looked at at once", int(longestSpan.Hours()/24))
	case len(ids) > history.MostPens:
		return refused("at most %d tags are looked at at once", history.MostPens)
	}
	return nil
}

// Between measures what was recorded of tags between two moments.
func (p *Project) Between(ctx context.Context, who Actor, ids []string, in Period) ([]record.Between, error) {
	reader, err := p.mayRead(ctx, who, ids, in)
	if err != nil {
		return nil, err
	}
	out := []record.Between{}
	for _, id := range ids {
		version, t := p.recordedTag(id)
		if t == nil {
			continue
		}
		if err := p.Require(ctx, who, access.View, version.AreaOf(t)); err != nil {
			return nil, err
		}
		show := func(v value.Value) string { return t.Show(v, false) }
		x, err := reader.Between(ctx, t, in.From.UnixNano(), in.To.UnixNano(), show)
		if err != nil {
			return nil, err
		}
		out = append(out, *x)
	}
	return out, nil
}

// recordedTag finds a tag whose course is kept: of the release, or of the draft
// where the release has it not; nil for none.
func (p *Project) recordedTag(id string) (*project.Project, *tag.Tag) {
	for _, version := range []*project.Project{p.Released(), p.Draft()} {
		if version != nil {
			if t, ok := version.Tag(id); ok {
				return version, t
			}
		}
	}
	return nil, nil
}

// asRow tells whether a tag's course is stretches of what it was, and no line.
func asRow(t *tag.Tag) bool {
	k := t.Kind()
	return k == value.BOOL || k == value.STRING || len(t.States) > 0 && k.IsInteger()
}

func trendLine(version *project.Project, t *tag.Tag) TrendLine {
	path, _ := version.Path(t.ID)
	line := TrendLine{Tag: t.ID, Path: path, Text: t.Description, Unit: t.Unit, Decimals: -1, Low: t.Low, High: t.High, Limits: []TrendMark{}}
	if s := t.Scale; s != nil && line.Low == nil && line.High == nil {
		line.Low, line.High = &s.EngLow, &s.EngHigh
	}
	if t.Decimals != nil {
		line.Decimals = *t.Decimals
	}
	for _, a := range version.AlarmsOf(t.ID) {
		if at, ok := project.FixedLimit(a); ok {
			line.Limits = append(line.Limits, TrendMark{a.Name, at})
		}
	}
	return line
}
