package host

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
	"readyrail/internal/door"
	"readyrail/internal/store"
)

// PanelInfo is an enrolled browser as the interface sees one.
type PanelInfo struct {
	ID         string    `json:"id"`
	Name       string    `json:"name"`
	EnrolledBy string    `json:"enrolledBy"`
	At         time.Time `json:"at"`
	Project    string    `json:"project"`
	Looks      bool      `json:"looks" doc:"shows its project, and sounds its alarms, with nobody signed in"`
	Rest       int       `json:"rest" doc:"minutes without a touch after which its person is signed out; 0 for never"`
	Badges     string    `json:"badges" enum:",alone,pin" doc:"how it takes badges: alone, with the PIN of its person, or not"`
}

// Enrol makes a browser a panel of the project and returns the key it has to
// keep. Names of panels are unique on a server, as the trail tells panels apart
// by them.
func (p *Project) Enrol(ctx context.Context, who Actor, name string) (key string, err error) {
	name = strings.TrimSpace(name)
	if n := len([]rune(name)); n == 0 || n > 40 {
		return "", refused("a panel needs a name of at most 40 characters")
	}
	if err := access.CheckVisible(name); err != nil {
		return "", refused("%v", err)
	}
	list, err := p.host.server.Panels(ctx)
	if err != nil {
		return "", err
	}
	for _, x := range list {
		if strings.EqualFold(x.Name, name) {
			return "", refused("there is a panel %s already: choose another name, or take the old one out first", name)
		}
	}
	raw := make([]byte, 32)
	rand.Read(raw)
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(raw), p.host.server.AddPanel(ctx,
		store.Panel{ID: store.NewID("panel"), Name: name, KeyHash: sum[:], EnrolledBy: who.Name, At: time.Now().Unix(), Project: p.id})
}

// Panel returns the panel that a key belongs to; one without a name where it
// belongs to none.
func (h *Host) Panel(ctx context.Context, key string) PanelInfo {
	raw, err := hex.DecodeString(key)
	if err != nil || len(raw) != 32 {
		return PanelInfo{}
	}
	sum := sha256.Sum256(raw)
	x, err := h.server.PanelByKey(ctx, sum[:])
	if err != nil {
		return PanelInfo{}
	}
	return panelInfo(x)
}

func panelInfo(x store.Panel) PanelInfo {
	return PanelInfo{x.ID, x.Name, x.EnrolledBy, time.Unix(x.At, 0), x.Project, x.Looks, x.Rest, x.Badges}
}

// Panels lists the project's panels.
func (p *Project) Panels(ctx context.Context) ([]PanelInfo, error) {
	list, err := p.host.server.Panels(ctx)
	out := []PanelInfo{}
	for _, x := range list {
		if x.Project == p.id {
			out = append(out, panelInfo(x))
		}
	}
	return out, err
}

// Watcher is who looks at a panel with nobody signed in: it may see what the
// panel's project shows, and nothing else. ok is false where the panel does
// not allow that.
func (x PanelInfo) Watcher() (who Actor, ok bool) {
	return Actor{ID: WatcherID(x.ID), Panel: x.Name, Watches: x.Project}, x.Looks
}

// WatcherID is the id of who looks at a panel with nobody signed in.
func WatcherID(panel string) string { return "panel:" + panel }

// SetPanel says how a panel behaves: whether it shows the project with nobody signed in,
// after how many minutes without a touch its person is signed out, and how it takes
// badges.
func (p *Project) SetPanel(ctx context.Context, x PanelInfo) error {
	if err := access.CheckRest(x.Rest); err != nil {
		return refused("%v", err)
	}
	if x.Badges != NoBadges && x.Badges != BadgeAlone && x.Badges != BadgeWithPIN {
		return refused("a panel takes badges alone, with a pin, or not, and not %q", x.Badges)
	}
	return p.host.server.SetPanel(ctx, store.Panel{ID: x.ID, Project: p.id, Looks: x.Looks, Rest: x.Rest, Badges: x.Badges})
}

// RemovePanel takes an enrolment of the project back; what is held at the panel
// is let go.
func (p *Project) RemovePanel(ctx context.Context, id string) error {
	list, err := p.Panels(ctx)
	if err != nil {
		return err
	}
	if err := p.host.server.RemovePanel(ctx, p.id, id); err != nil {
		return err
	}
	for _, x := range list {
		if x.ID == id {
			p.host.EndHolds(func(w door.Who) bool { return w.Panel == x.Name }, say.New("the panel was taken out"))
		}
	}
	return nil
}
