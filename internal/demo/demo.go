// Package demo makes the demonstration project: Larchmoor, a timber drying
// yard that nobody runs, with its accounts.
package demo

import (
	"bytes"
	"context"
	_ "embed"
	"encoding/json"
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/edit"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
	"readyrail/internal/plant"
	"readyrail/internal/record"
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

// Project builds the demo project; its devices are where the plant listens.
func Project(at plant.Addresses) (*project.Project, error) {
	p := edit.NewProject("Larchmoor drying yard")
	p.Site().Description = "Three drying chambers, the rail car, the yard, the meter and the weather"
	p.Site().Languages = []string{"en", "de"}
	p.Site().Areas = []access.Area{{ID: "a-kilns", Name: "Kilns"}, {ID: "a-k1", Name: "Kiln1", Parent: "a-kilns"},
		{ID: "a-k2", Name: "Kiln2", Parent: "a-kilns"},
		{ID: "a-k3", Name: "Kiln3", Parent: "a-kilns"}, {ID: "a-car", Name: "Rail car"}, {ID: "a-yard", Name: "Yard"}}
	var ops []project.Op
	add := func(kind, id string, v any) {
		doc, err := json.Marshal(v)
		if err == nil {
			ops = append(ops, project.Op{Kind: kind, ID: id, Value: doc})
		}
	}
	list, err := devices(at)
	if err != nil {
		return nil, err
	}
	for _, d := range list {
		add(project.KindDevice, d.ID, d)
	}
	if p, _, err = p.Edit(ops); err != nil {
		return nil, err
	}
	if p, err = bringTagsIn(p); err != nil {
		return nil, err
	}
	if p, err = equip(p); err != nil {
		return nil, err
	}
	if p, err = deliveriesTold(p); err != nil {
		return nil, err
	}
	ops = nil
	add(project.KindLook, "l-mode", modeLooks)
	for _, v := range views(p) {
		add(project.KindView, v.ID, v)
	}
	for _, r := range rules(p) {
		add(project.KindRule, r.ID, r)
	}
	for _, l := range logs(p) {
		add(project.KindLog, l.ID, l)
	}
	shelf, err := books(p)
	if err != nil {
		return nil, err
	}
	for _, b := range shelf {
		add(project.KindBook, b.ID, b)
	}
	add(project.KindWords, "de", project.Words{Words: germanAlarms()})
	for _, s := range screens(p) {
		add(project.KindScreen, s.ID, s)
	}
	told, err := alarms(p)
	if err != nil {
		return nil, err
	}
	for _, a := range told {
		add(project.KindAlarm, a.ID, a)
	}
	shared, err := alarmTypes(p)
	if err != nil {
		return nil, err
	}
	ops = append(ops, shared...)
	for id, t := range p.Types {
		if t.Name == "Fan" {
			ops = append(ops, project.Op{Kind: project.KindType, ID: id, Path: "/symbol", Value: []byte(`"s-fan-symbol"`)},
				project.Op{Kind: project.KindType, ID: id, Path: "/faceplate", Value: []byte(`"s-fan"`)})
		}
	}
	p, _, err = p.Edit(ops)
	return p, err
}

// modeLooks show what a chamber does; idle is quiet.
var modeLooks = screen.LookSet{Name: "Mode of a chamber", Cases: []screen.Case{
	{Name: "idle", Is: text("0"), Look: map[string]any{"fill": "none"}},
	{Name: "warming up", Is: text("1"), Look: map[string]any{"fill": "#B4551D33"}},
	{Name: "drying", Is: text("2"), Look: map[string]any{"fill": "#1E6B5A33"}},
	{Name: "otherwise", Look: map[string]any{"fill": "#3D74A833"}},
}}

func text(s string) *string { return &s }

// devices are the plant's four, at the addresses it listens on.
func devices(at plant.Addresses) ([]device.Device, error) {
	make := func(protocol, id, name, description, addr string) (device.Device, error) {
		d := device.NewOf(protocol)
		d.ID, d.Name, d.Description = id, name, description
		hostName, port, err := net.SplitHostPort(addr)
		if err == nil {
			d.Host = hostName
			d.Port, err = strconv.Atoi(port)
		}
		return d, err
	}
	kiln, err := make(device.ModbusTCP, "d-kiln", "KilnPLC", "Controller of the drying chambers", at.Modbus)
	if err != nil {
		return nil, err
	}
	kiln.Unit = plant.KilnUnit
	kiln.Groups = []device.Group{{ID: "g-slow", Name: "slow", Every: 1000}, {ID: "g-detail", Name: "detail", Every: 500, Needed: true}}
	car, err := make(device.ModbusTCP, "d-car", "CarPLC", "Controller of the rail car and the yard", at.Modbus)
	if err != nil {
		return nil, err
	}
	car.Unit = plant.CarUnit
	meter, err := make(device.OPCUA, "d-meter", "Meter", "Energy meter and weighbridge", at.OPCUA)
	if err != nil {
		return nil, err
	}
	weather, err := make(device.MQTT, "d-weather", "Weather", "Weather station on the roof", at.MQTT)
	if err != nil {
		return nil, err
	}
	weather.Will, weather.WillGone, weather.MaxSilence = plant.StatusTopic, "offline", 30
	return []device.Device{kiln, car, meter, weather}, nil
}

// numbered makes ids that are the same each time.
func numbered(prefix string) func(string) string {
	n := map[string]int{}
	return func(kind string) string {
		n[kind]++
		return fmt.Sprintf("%s-%s%03d", kind[:1], prefix, n[kind])
	}
}

func bringTagsIn(p *project.Project) (*project.Project, error) {
	rows, err := exchange.ReadCSV(tagList)
	if err != nil {
		return nil, err
	}
	lines := exchange.Preview(rows, p, exchange.Options{})
	for _, l := range lines {
		if l.Status != exchange.New {
			return nil, fmt.Errorf("the demo's tags, line %d: %s: %s", l.Line, l.Column, l.Reason)
		}
	}
	if p, _, err = p.Edit(exchange.Ops(lines, p, nil, numbered(""))); err != nil {
		return nil, err
	}
	if p, err = detail(p); err != nil {
		return nil, err
	}
	return multiply(p)
}

// detail adds what a list of tags does not say.
func detail(p *project.Project) (*project.Project, error) {
	var ops []project.Op
	set := func(path, pointer string, v any) {
		doc, _ := json.Marshal(v)
		id, _ := p.FindPath(path)
		ops = append(ops, project.Op{Kind: project.KindTag, ID: id, Path: pointer, Value: doc})
	}
	at := func(f float64) *float64 { return &f }
	name := func(n int64, en, de string) tag.State {
		return tag.State{Value: n, Text: en, Texts: map[string]string{"de": de}}
	}
	set("Kiln1.Mode", "/states", []tag.State{name(0, "idle", "Ruhe"), name(1, "warm-up", "Anwärmen"), name(2, "drying", "Trocknen"),
		name(3, "conditioning", "Konditionieren"), name(4, "cooling", "Kühlen")})
	set("Kiln1.DoorClosed", "/states", []tag.State{name(0, "open", "offen"), name(1, "closed", "zu")})
	set("Kiln1.SprayOpen", "/states", []tag.State{name(0, "closed", "zu"), name(1, "open", "offen")})
	set("Kiln1.MoistureAvg", "/order", device.CDAB)
	set("Plant.ShiftNote", "/retain", true)
	// A probe's converter gives -3276.8 when the probe breaks.
	for i := 1; i <= 4; i++ {
		set(fmt.Sprintf("Kiln1.Moisture[%d]", i), "/plausible", tag.Plausible{Low: at(0), High: at(120)})
	}
	for _, bulb := range []string{"Kiln1.DryBulb", "Kiln1.WetBulb"} {
		set(bulb, "/plausible", tag.Plausible{Low: at(-30), High: at(150)})
	}
	for _, path := range p.SortedTags() {
		// Currents of the fans are read only while somebody looks at them.
		if name, _ := p.Path(path); strings.HasPrefix(name, "Kiln1.Fan[") && strings.HasSuffix(name, "].Current") {
			set(name, "/group", "g-detail")
		}
	}
	id := func(path string) string { found, _ := p.FindPath(path); return found }
	beat, _ := json.Marshal(device.Heartbeat{Out: id("Plant.ServerBeat"), Every: 1000, In: id("Plant.ControllerBeat"), Timeout: 5000})
	ops = append(ops, project.Op{Kind: project.KindDevice, ID: "d-kiln", Path: "/heartbeat", Value: beat})
	// The car's controller stops it when this server is silent for a second.
	beat, _ = json.Marshal(device.Heartbeat{Out: id("Car.ServerBeat"), Every: 200, Timeout: 1000})
	ops = append(ops, project.Op{Kind: project.KindDevice, ID: "d-car", Path: "/heartbeat", Value: beat})
	for device, list := range conditionsOf(id) {
		doc, _ := json.Marshal(list)
		ops = append(ops, project.Op{Kind: project.KindDevice, ID: device, Path: "/conditions", Value: doc})
	}
	p, _, err := p.Edit(ops)
	return p, err
}

// conditionsOf are the parts of the controllers that tell how they are; id
// finds a tag by its path.
func conditionsOf(id func(path string) string) map[string][]device.Condition {
	good := func(text string) device.Code { return device.Code{Code: "0", Level: device.LevelGood, Text: text} }
	return map[string][]device.Condition{
		"d-kiln": {
			{Name: "Program", Tag: id("Plant.ProgramState"),
				Codes: []device.Code{good("The program runs"),
					{Code: "3", Level: device.LevelAttention, Text: "A chamber stands by a fault: see its alarms"}}},
			{Name: "Network", Tag: id("Plant.NetworkState"),
				Codes: []device.Code{good("All partners are heard"),
					{Code: "21", Level: device.LevelFault, Text: "Nobody supervises this controller: check this server and the network"}}},
		},
		"d-car": {
			{Name: "Motion", Tag: id("Car.MotionState"), Codes: []device.Code{good("Ready"),
				{Code: "1", Level: device.LevelGood, Text: "The car moves"},
				{Code: "12", Level: device.LevelFault, Text: "Let go, as nobody supervises any more: check this server and the network"},
				{Code: "31", Level: device.LevelFault, Text: "Emergency stop: release it at the car, then reset"}}},
			{Name: "Field bus", Tag: id("Car.FieldBusState"),
				Codes: []device.Code{good("All stations answer"),
					{Code: "47", Level: device.LevelFault, Text: "Station 4 (bays 25 to 48) does not answer: check its supply and its plug"}}},
		},
	}
}

// multiply makes chambers 2 and 3 of chamber 1, and the bays of the yard.
func multiply(p *project.Project) (*project.Project, error) {
	kiln1, _ := p.FindFolder("Kiln1")
	for n := 2; n <= plant.Chambers; n++ {
		_, ops, err := p.PlanCopies(project.Copies{Folder: kiln1, Count: 1, Find: "Kiln1", Replace: fmt.Sprintf("Kiln%d", n),
			AddressStep: (n - 1) * plant.ChamberStep, BitStep: (n - 1) * plant.ChamberStep}, numbered(fmt.Sprintf("k%d-", n)))
		if err != nil {
			return nil, err
		}
		for i := range ops {
			ops[i].Value = bytes.ReplaceAll(ops[i].Value, []byte(`"a-k1"`), []byte(fmt.Sprintf(`"a-k%d"`, n)))
		}
		if p, _, err = p.Edit(ops); err != nil {
			return nil, err
		}
	}
	bay := tag.Tag{Type: value.Type{Kind: value.BOOL}, Source: tag.Device, Device: "d-car", Access: tag.Read, Area: "a-yard",
		Description: "Timber stands in bay {1}"}
	_, ops, err := p.PlanMany(project.Many{Path: "Yard.Bay[1..48]", Address: "discrete:100", Tag: bay}, numbered("b"))
	if err != nil {
		return nil, err
	}
	p, _, err = p.Edit(ops)
	return p, err
}

// equip makes equipment of the chambers: a type of chamber with its fans and
// its burner.
func equip(p *project.Project) (*project.Project, error) {
	kiln1, _ := p.FindFolder("Kiln1")
	list, ops, err := p.PlanType(project.TypeOf{Folder: kiln1, Name: "Chamber", Alike: true}, numbered("gear-"))
	if err != nil {
		return nil, err
	}
	for _, l := range list {
		if !l.Problem.IsZero() {
			return nil, fmt.Errorf("the demo's equipment %s: %s", l.Path, l.Problem)
		}
	}
	p, _, err = p.Edit(ops)
	return p, err
}

// Fill makes the demo's accounts and project on a host that has none. withPast
// gives it a made-up week of history.
func Fill(ctx context.Context, h *host.Host, at plant.Addresses, withPast bool) error {
	owner := host.Actor{ID: "demo", Name: "Demo", Owner: true}
	content, err := Project(at)
	if err != nil {
		return fmt.Errorf("the demo project: %w", err)
	}
	var before record.Past
	if withPast {
		if before, err = past(content, time.Now()); err != nil {
			return fmt.Errorf("the demo's past: %w", err)
		}
	}
	p, err := h.CreateProjectWith(ctx, owner, ID, content, before)
	if err != nil {
		return err
	}
	for i, d := range People {
		a, err := h.PutAccount(ctx, owner, "", host.NewAccount{Name: d.Name, FullName: d.FullName, Password: d.Password, PIN: d.PIN,
			Owner: i == 0, Home: ID, Chosen: true})
		if err != nil {
			return err
		}
		if err := p.SetGrants(ctx, owner, a.ID, []access.Grant{{Role: d.roleID}}); err != nil {
			return err
		}
		if i == 0 {
			owner = host.Actor{ID: a.ID, Name: a.FullName, Owner: true}
		}
	}
	_, err = p.Publish(ctx, owner, host.ReleaseOrder{Note: "The demo as it ships"})
	return err
}
