package project

import "readyrail/internal/core/screen"

// KindLook are looks by state that several elements share.
const KindLook = "look"

var lookKind = &kindOf[screen.LookSet]{
	ThingKind: ThingKind{Name: KindLook, Stop: StopScreens},
	of:        func(p *Project) *map[string]*screen.LookSet { return &p.Looks },
	read: func(_ *Project, id string, l *screen.LookSet, _ bool) (*screen.LookSet, error) {
		l.ID = id
		return l, at(l.Check())
	},
	name: func(_ *Project, _ string, l *screen.LookSet) string { return l.Name },
}
