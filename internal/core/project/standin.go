package project

import "readyrail/internal/core/tag"

// Behaves is what a tag does on a stand-in: its own behaviour, or a suggested one.
// The answer of a book's handshake goes after its request, as a controller that
// takes every recipe over at once.
func (p *Project) Behaves(t *tag.Tag) tag.Behaviour {
	if t.Behaviour != nil {
		return *t.Behaviour
	}
	p.answersOnce.Do(func() {
		p.answers = map[string]string{}
		for _, b := range p.Books {
			h := b.Sending.Hand
			if h == nil {
				continue
			}
			for _, target := range p.BookTargets(b) {
				ready, taken := p.TargetTag(h.Ready, target), p.TargetTag(h.Taken, target)
				if ready != nil && taken != nil {
					p.answers[taken.ID] = ready.ID
				}
			}
		}
	})
	if ready, ok := p.answers[t.ID]; ok {
		return tag.Behaviour{Kind: tag.Follow, Tag: ready}
	}
	path, _ := p.Path(t.ID)
	return tag.Suggest(t, path, p.FindPath)
}
