package project

import "readyrail/internal/core/screen"

// KindStyle are text styles that elements take by name.
const KindStyle = "style"

var styleKind = &kindOf[screen.TextStyle]{
	ThingKind: ThingKind{Name: KindStyle, Stop: StopScreens},
	of:        func(p *Project) *map[string]*screen.TextStyle { return &p.Styles },
	read: func(_ *Project, id string, t *screen.TextStyle, _ bool) (*screen.TextStyle, error) {
		t.ID = id
		return t, at(t.Check())
	},
	name: func(_ *Project, _ string, t *screen.TextStyle) string { return t.Name },
}
