// Package demo makes the demonstration project: Larchmoor, a timber drying
// yard that nobody runs, with its accounts.
package demo

import (
	"context"
	_ "embed"
	"encoding/json"
	"fmt"

	"readyrail/internal/core/access"
	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
	"readyrail/internal/plant"
)

//go:embed tags.csv
var tagList []byte

// ID is the demo project's id.
const ID = "larchmoor"

// Person is an account of the demo, as its sign-in page shows it.
type Person struct {
	Name     string `json:"name"`
	FullName string `json:"fullName"`
	Password string `json:"password"`
	PIN      string `json:"pin"`
	Role     string `json:"role"`
	roleID   string
}

// People are the demo's accounts.
var People = []Person{
	{"ada", "Ada Birch", "larch-and-spruce", "2580", "Engineer", "r-engineer"},
	{"tom", "Tom Alder", "oak-and-ash", "1470", "Operator", "r-operator"},
	{"iris", "Iris Rowan", "elm-and-yew", "3690", "Shift lead", "r-lead"},
	{"sam", "Sam Oakes", "pine-and-fir", "9512", "Viewer", "r-viewer"},
}

// Project builds the demo project; its controllers listen on host:port.
func Project(hostName string, port int) (*project.Project, error) {
	p := host.NewProject("Larchmoor drying yard")
	p.Site.Description = "A drying chamber and the rail car"
	p.Site.Areas = []access.Area{{ID: "a-kilns", Name: "Kilns"}, {ID: "a-k1", Name: "Chamber 1", Parent: "a-kilns"}, {ID: "a-car", Name: "Rail car"}}
	var ops []project.Op
	add := func(kind, id string, v any) {
		doc, err := json.Marshal(v)
		if err == nil {
			ops = append(ops, project.Op{Kind: kind, ID: id, Value: doc})
		}
	}
	for id, d := range map[string]device.Device{
		"d-kiln": {Name: "KilnPLC", Description: "Controller of the drying chambers", Unit: plant.KilnUnit, Poll: 250},
		"d-car":  {Name: "CarPLC", Description: "Controller of the rail car", Unit: plant.CarUnit, Poll: 250},
	} {
		full := device.New()
		full.Name, full.Description, full.Unit, full.Poll, full.Host, full.Port = d.Name, d.Description, d.Unit, d.Poll, hostName, port
		add(project.KindDevice, id, full)
	}
	p, _, err := p.Edit(ops)
	if err != nil {
		return nil, err
	}
	if p, err = bringTagsIn(p); err != nil {
		return nil, err
	}
	ops = nil
	for _, s := range screens(p) {
		add(project.KindScreen, s.ID, s)
	}
	p, _, err = p.Edit(ops)
	return p, err
}

func bringTagsIn(p *project.Project) (*project.Project, error) {
	rows, err := exchange.ReadCSV(tagList)
	if err != nil {
		return nil, err
	}
	n := map[string]int{}
	lines := exchange.Preview(rows, p)
	for _, l := range lines {
		if l.Status == exchange.Refused {
			return nil, fmt.Errorf("the demo's tags, line %d: %s: %s", l.Line, l.Column, l.Reason)
		}
	}
	ops := exchange.Ops(lines, p, nil, func(kind string) string {
		n[kind]++
		return fmt.Sprintf("%s-%03d", kind[:1], n[kind])
	})
	p, _, err = p.Edit(ops)
	if err != nil {
		return nil, err
	}
	ops = nil
	states := func(path string, s []tag.State) {
		doc, _ := json.Marshal(s)
		id, _ := p.FindPath(path)
		ops = append(ops, project.Op{Kind: project.KindTag, ID: id, Path: "/states", Value: doc})
	}
	states("Kiln1.Mode", []tag.State{{Value: 0, Text: "idle"}, {Value: 1, Text: "warm-up"}, {Value: 2, Text: "drying"}, {Value: 3, Text: "conditioning"}, {Value: 4, Text: "cooling"}})
	states("Kiln1.DoorClosed", []tag.State{{Value: 0, Text: "open"}, {Value: 1, Text: "closed"}})
	states("Kiln1.SprayOpen", []tag.State{{Value: 0, Text: "closed"}, {Value: 1, Text: "open"}})
	id, _ := p.FindPath("Kiln1.MoistureAvg")
	ops = append(ops, project.Op{Kind: project.KindTag, ID: id, Path: "/order", Value: json.RawMessage(`"CDAB"`)})
	p, _, err = p.Edit(ops)
	return p, err
}

// Fill makes the demo's accounts and project on a host that has none.
func Fill(ctx context.Context, h *host.Host, hostName string, port int) error {
	owner := host.Actor{ID: "demo", Name: "Demo", Owner: true}
	content, err := Project(hostName, port)
	if err != nil {
		return fmt.Errorf("the demo project: %w", err)
	}
	p, err := h.CreateProject(ctx, owner, ID, content)
	if err != nil {
		return err
	}
	for i, d := range People {
		a, err := h.PutAccount(ctx, "", host.NewAccount{Name: d.Name, FullName: d.FullName, Password: d.Password, PIN: d.PIN, Owner: i == 0})
		if err != nil {
			return err
		}
		if err := p.SetGrants(ctx, a.ID, []access.Grant{{Role: d.roleID}}); err != nil {
			return err
		}
		if i == 0 {
			owner = host.Actor{ID: a.ID, Name: a.FullName, Owner: true}
		}
	}
	_, err = p.Publish(ctx, owner, "The demo as it ships")
	return err
}
