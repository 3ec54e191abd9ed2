package project

import (
	"slices"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
)

// KindSite is the one thing that holds for the whole project.
const KindSite = "site"

// SiteID is the id of the one site.
const SiteID = "site"

// Site is what holds for the whole project.
type Site struct {
	ID          string        `json:"id"`
	Name        string        `json:"name"`
	Description string        `json:"description,omitempty"`
	PanelWidth  int           `json:"panelWidth"`  // pixels
	PanelHeight int           `json:"panelHeight"` // pixels
	Areas       []access.Area `json:"areas"`
	// Languages are the codes of the project's languages; texts without a
	// language are in the first.
	Languages []string `json:"languages,omitempty"`
	// Journal says what the journal does with events that are no alarms: by the kind of
	// entry, and by a failure of its own, which goes before its kind. What is not named is
	// kept without priority.
	Journal map[string]JournalRule `json:"journal,omitempty"`
	// Palette are the project's own colours, which the picker offers beside
	// those of the theme: #rrggbb or #rrggbbaa.
	Palette []string `json:"palette,omitempty"`
	// Recorder says how much the recorder keeps.
	Recorder RecorderBounds `json:"recorder,omitzero"`
	// Release is what the site asks before the draft is released.
	Release ReleaseRule `json:"release,omitzero"`
}

// RecorderBounds is how much the recorder keeps of all that has no time of its own.
type RecorderBounds struct {
	Days int `json:"days,omitempty"` // UsualDays where it is 0
	MB   int `json:"mb,omitempty"`   // size of its files; 0 for no bound
}

// UsualDays is how long the recorder keeps what nobody says anything of.
const UsualDays = 30

// MaxPalette is how many colours of its own a project keeps.
const MaxPalette = 48

// JournalRule is what the journal does with a kind of event.
type JournalRule struct {
	Out      bool           `json:"out,omitempty"` // left out
	Priority alarm.Priority `json:"priority,omitempty"`
}

// JournalKinds are the kinds of events that a rule may be for.
var JournalKinds = []string{"event", "action", "person", "link", "trouble", "system"}

// JournalFailures are the failures that may have a rule of their own.
var JournalFailures = []string{"log-unwritten", "log-full", "delivery-broken", "directory-lost", "backup-failed", "head-unwritten",
	"link-lost", "disk-low", "clock-stepped", "journal-lost", "screen-error", "failed"}

// JournalRuleOf is the rule for an event of a kind.
func JournalRuleOf(rules map[string]JournalRule, kind, what string) JournalRule {
	if rule, ok := rules[what]; ok && slices.Contains(JournalFailures, what) {
		return rule
	}
	return rules[kind]
}

var siteKind = &kindOf[Site]{
	ThingKind: ThingKind{Name: KindSite, Stop: StopSite},
	of:        func(p *Project) *map[string]*Site { return &p.site },
	read: func(_ *Project, id string, s *Site, _ bool) (*Site, error) {
		if id != SiteID {
			return nil, say.Errorf("a project has one site, %q", SiteID)
		}
		s.ID = SiteID
		if s.Areas == nil {
			s.Areas = []access.Area{}
		}
		return s, at(s.Check())
	},
	name: func(_ *Project, _ string, s *Site) string { return s.Name },
	refers: func(_ *Project, s *Site, say func(target, place, within string)) {
		for _, a := range s.Areas {
			say(a.Parent, "/areas", a.Name)
		}
		for _, language := range s.Languages {
			say(language, "/languages", language)
		}
		say(s.Release.By, "/release/by", s.Name)
	},
	texts: func(_ *Project, _ string, s *Site, say sayText) {
		for _, a := range s.Areas {
			say(a.Name, a.Name)
		}
	},
	check: func(c *checker) {
		site := c.p.Site()
		if len(site.Areas) == 0 {
			c.add("site.areas", Note, KindSite, SiteID, "/areas", site.Name)
		}
		c.areas()
	},
	work: func(*Project) int { return 1 },
	editRules: editRules{
		stays: func() error { return say.New("the site itself cannot be deleted") },
	},
}

// areas finds what names an area that the site no longer has. A reference to an
// area stands in a member of that name.
func (c *checker) areas() {
	for _, k := range kinds {
		k.refersTo(c.p, func(target string, u Use) {
			if strings.HasSuffix(u.Place, "/area") && !c.p.HasArea(target) {
				c.add("area.gone", Warning, u.Kind, u.ID, u.Place, u.Name)
			}
		})
	}
}

// Check refuses what cannot be a site; place is a JSON pointer into it.
func (s *Site) Check() (place string, err error) {
	switch {
	case s.PanelWidth < 320 || s.PanelHeight < 240 || s.PanelWidth > 7680 || s.PanelHeight > 4320:
		return "/panelWidth", say.Errorf("a panel is 320×240 to 7680×4320 pixels, not %d×%d", s.PanelWidth, s.PanelHeight)
	case s.Name == "":
		return "/name", say.New("a project needs a name")
	case s.Recorder.Days < 0 || s.Recorder.Days > tag.MostRecorded:
		return "/recorder/days", say.Errorf("the recorder keeps 1 to %d days", tag.MostRecorded)
	case s.Recorder.MB < 0 || s.Recorder.MB > 0 && s.Recorder.MB < 50:
		return "/recorder/mb", say.New("the recorder needs 50 MB at least; 0 for no bound")
	}
	if place, err := s.Release.check(); err != nil {
		return place, err
	}
	if place, err := s.checkJournal(); err != nil {
		return place, err
	}
	return s.checkPalette()
}

func (s *Site) checkPalette() (place string, err error) {
	if len(s.Palette) > MaxPalette {
		return "/palette", say.Errorf("a palette has at most %d colours", MaxPalette)
	}
	for i, c := range s.Palette {
		if !strings.HasPrefix(c, "#") || !screen.Colour(c) {
			return "/palette", say.Errorf("%q is no colour of a palette: use #rrggbb or #rrggbbaa", c)
		}
		if slices.Contains(s.Palette[:i], c) {
			return "/palette", say.Errorf("the palette has %s already", c)
		}
	}
	return "", nil
}

func (s *Site) checkJournal() (place string, err error) {
	for _, kind := range SortedKeys(s.Journal) {
		rule := s.Journal[kind]
		switch {
		case !slices.Contains(JournalKinds, kind) && !slices.Contains(JournalFailures, kind):
			return "/journal/" + kind, say.Errorf("the journal knows no kind and no failure %q: use one of %s, %s", kind,
				strings.Join(JournalKinds, ", "), strings.Join(JournalFailures, ", "))
		case rule.Priority != "" && rule.Priority.Rank() == len(alarm.Priorities):
			return "/journal/" + kind + "/priority", say.Errorf("%q is no priority: use critical, high, medium or low", rule.Priority)
		}
	}
	return "", nil
}
