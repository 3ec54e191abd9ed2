package run

import (
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
)

// ArgsFit refuses what cannot stand for a screen's parameters.
func ArgsFit(release *project.Project, s *screen.Screen, args screen.Args) error {
	for id, given := range args {
		param, ok := s.Param(id)
		switch {
		case !ok:
			return refused("the screen %s has no such parameter", s.Name)
		case param.Kind == screen.ParamEquipment && release.TypeOf(release.Real(given)) != param.Type:
			return refused("what is given for %s is no equipment of its type", param.Name)
		case param.Kind == screen.ParamTag:
			if _, ok := release.Tag(release.Real(given)); !ok {
				return refused("what is given for %s is no tag", param.Name)
			}
		case len(given) > 300:
			return refused("what is given for %s is too long", param.Name)
		}
	}
	return nil
}
