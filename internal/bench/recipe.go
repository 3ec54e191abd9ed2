package bench

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"net"
	"strings"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/value"
	"readyrail/internal/host"
	"readyrail/internal/link"
	driver "readyrail/internal/link/modbus"
	"readyrail/internal/modbus"
	"readyrail/internal/record"
)

// recipes measures a delivery's way to a device, and a book of many recipes.
func recipes() ([]Figure, error) {
	sent, err := deliveries()
	if err != nil {
		return nil, err
	}
	kept, err := shelves()
	return append(sent, kept...), err
}

// lasting is a controller that keeps what is written.
type lasting struct {
	counter
	holding [2000]uint16
	writes  [][2]int
	takes   time.Duration // for an answer
}

func (l *lasting) ReadRegisters(unit, f byte, start uint16, regs []uint16) error {
	time.Sleep(l.takes)
	copy(regs, l.holding[start:])
	return l.counter.ReadRegisters(unit, f, start, regs)
}

func (l *lasting) WriteRegisters(_ byte, start uint16, regs []uint16) error {
	time.Sleep(l.takes)
	l.writes = append(l.writes, [2]int{int(start), len(regs)})
	copy(l.holding[start:], regs)
	return nil
}

// deliveries writes 500 fields of a block and reads them back, against the same
// requests on a raw socket: to a controller that answers at once, and to one that
// answers in its own time.
func deliveries() ([]Figure, error) {
	out, err := delivery(&lasting{}, "")
	if err != nil {
		return nil, err
	}
	slow, err := delivery(&lasting{takes: 2 * time.Millisecond}, ", answered in 2 ms")
	if err != nil {
		return nil, err
	}
	return append(out, slow[1:]...), nil
}

func delivery(bank *lasting, how string) ([]Figure, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	go modbus.Serve(ctx, l, bank)
	dev := device.New()
	dev.Host, dev.Port = "127.0.0.1", l.Addr().(*net.TCPAddr).Port
	d := driver.New(dev, link.Env{}, link.NewMeters())
	if err := d.Connect(ctx); err != nil {
		return nil, err
	}
	defer d.Close()
	const fields = 500
	points, values := make([]link.Point, fields), make([]value.Value, fields)
	for i := range points {
		at := device.Address{Space: device.Holding, Offset: uint16(i), Bit: device.NoBit}
		points[i] = link.Point{Unit: 1, Addr: at, WriteAddr: at, Type: value.Type{Kind: value.INT}, Order: device.ABCD}
		values[i] = value.Int(value.INT, int64(i))
	}
	ours := time.Duration(math.MaxInt64)
	for range 40 {
		bank.requests, bank.writes = nil, nil
		start := time.Now()
		for _, request := range driver.Requests(dev, points) {
			first, end := request[0], request[len(request)-1]+1
			if err := d.WriteBatch(ctx, dev, points[first:end], values[first:end]); err != nil {
				return nil, err
			}
		}
		back, err := d.ReadBatch(ctx, dev, points)
		if err != nil || !back[fields-1].Same(values[fields-1]) {
			return nil, fmt.Errorf("read back %v: %w", back[fields-1], err)
		}
		ours = min(ours, time.Since(start))
	}
	bare, err := bareWay(dev, bank)
	if err != nil {
		return nil, err
	}
	n := float64(len(bank.writes) + len(bank.requests))
	least := math.Ceil(fields/float64(modbus.MaxWriteRegisters)) + math.Ceil(fields/float64(modbus.MaxReadRegisters))
	return []Figure{ratio("recipe/requests of 500 fields", "requests", n, least, 1),
		ratio("recipe/delivery of 500 fields"+how, "µs", float64(ours.Nanoseconds())/1000, float64(bare.Nanoseconds())/1000, 1.3)}, nil
}

// bareWay makes the requests that a controller has noted on a raw socket.
func bareWay(dev device.Device, bank *lasting) (time.Duration, error) {
	raw, err := net.Dial("tcp", dev.Endpoint())
	if err != nil {
		return 0, err
	}
	defer raw.Close()
	writes, reads := bank.writes, bank.requests
	var frame []byte
	answer := make([]byte, 300)
	regs := make([]uint16, modbus.MaxWriteRegisters)
	ask := func(pdu []byte, size int) error {
		frame = modbus.AppendFrame(frame[:0], modbus.Header{Transaction: 1, Unit: 1}, pdu)
		if _, err := raw.Write(frame); err != nil {
			return err
		}
		_, err := io.ReadFull(raw, answer[:size])
		return err
	}
	best := time.Duration(math.MaxInt64)
	for range 40 {
		start := time.Now()
		for _, w := range writes {
			if err := ask(modbus.AppendWriteRegisters(nil, uint16(w[0]), regs[:w[1]]), 12); err != nil {
				return 0, err
			}
		}
		for _, r := range reads {
			if err := ask(modbus.AppendRead(nil, modbus.ReadHolding, uint16(r[0]), r[1]), 9+2*r[1]); err != nil {
				return 0, err
			}
		}
		best = min(best, time.Since(start))
	}
	bank.writes, bank.requests = writes, reads
	return best, nil
}

// shelves keeps 10,000 recipes of 100 fields, lists, searches and compares them.
func shelves() ([]Figure, error) {
	h, done, err := openHost()
	if err != nil {
		return nil, err
	}
	defer done()
	ctx, owner := context.Background(), host.Actor{ID: "bench", Name: "Bench", Owner: true}
	content := project.New("bench")
	p, err := h.CreateProjectWith(ctx, owner, "bench", content, record.Past{})
	if err != nil {
		return nil, err
	}
	b := recipe.Book{Name: "Book"}
	for i := range 100 {
		b.Fields = append(
			b.Fields,
			recipe.Field{ID: fmt.Sprint("f", i), Name: fmt.Sprint("Field", i), Type: value.Type{Kind: value.REAL}, Low: "0",
				High: "100"},
		)
	}
	doc, err := json.Marshal(b)
	if err != nil {
		return nil, err
	}
	if _, err := p.Edit(ctx, owner, "book", []project.Op{{Kind: project.KindBook, ID: "b", Value: doc}}); err != nil {
		return nil, err
	}
	const many, together = 10_000, 5000
	var saving time.Duration
	var ids []string
	for from := 0; from < many; from += together {
		list := make([]host.RecipeDraft, together)
		for i := range list {
			list[i] = host.RecipeDraft{Name: fmt.Sprintf("Recipe %05d", from+i), Values: map[string]string{}}
			for f := range b.Fields {
				list[i].Values[b.Fields[f].ID] = fmt.Sprint((from + i + f) % 100)
			}
		}
		start := time.Now()
		got, err := p.Plant().SaveRecipes(ctx, owner, "b", true, list, "")
		if err != nil {
			return nil, err
		}
		saving, ids = max(saving, time.Since(start)), append(ids, got...)
	}
	out := []Figure{below("recipe/5,000 saved together", "ms", ms(saving), 3000)}
	for _, f := range []struct {
		name string
		do   func() error
	}{
		{"list of 10,000", func() error {
			page, err := p.Plant().Recipes(ctx, owner, host.RecipeAsk{Book: "b", Draft: true, Skip: 5000})
			return counted(page, err, many)
		}},
		{"search in 10,000", func() error {
			page, err := p.Plant().Recipes(ctx, owner, host.RecipeAsk{Book: "b", Draft: true, Text: "0999"})
			return counted(page, err, 11) // 0999 and 9990 to 9999
		}},
		{"compare of 10", func() error {
			asks := make([]host.SheetAsk, 10)
			for i := range asks {
				asks[i].Recipe = ids[i*7]
			}
			sheets, err := p.Plant().Sheets(ctx, owner, "b", true, asks)
			if err == nil && sheets[1].Differs != 100 {
				err = fmt.Errorf("%d fields differ", sheets[1].Differs)
			}
			return err
		}},
	} {
		worst := time.Duration(0)
		for range 10 {
			start := time.Now()
			if err := f.do(); err != nil {
				return nil, err
			}
			worst = max(worst, time.Since(start))
		}
		out = append(out, below("recipe/"+f.name, "ms", ms(worst), 100))
	}
	// Last: it alters what was compared.
	imported, err := fileOfRecipes(p, owner, b.Fields, together)
	return append(out, below("recipe/5,000 rows of a file in", "ms", ms(imported), 3000)), err
}

// fileOfRecipes brings in a file whose rows change a field of as many recipes: read
// and previewed, then saved.
func fileOfRecipes(p *host.Project, owner host.Actor, fields []recipe.Field, rows int) (time.Duration, error) {
	var file strings.Builder
	file.WriteString("Name")
	for _, f := range fields {
		file.WriteString("," + f.Name)
	}
	for i := range rows {
		fmt.Fprintf(&file, "\nRecipe %05d,99.5", i)
		for f := 1; f < len(fields); f++ {
			fmt.Fprintf(&file, ",%d", (i+f)%100)
		}
	}
	start := time.Now()
	read, err := p.Plant().ReadRecipes(context.Background(), owner, "b", true, []byte(file.String()))
	if err != nil {
		return 0, err
	}
	list := make([]host.RecipeDraft, 0, rows)
	for _, r := range read.Rows {
		if r.Status != "changed" || len(r.Differs) != 1 {
			return 0, fmt.Errorf("line %d is %s, with %d fields that differ: %s", r.Line, r.Status, len(r.Differs), r.Reason)
		}
		list = append(list, host.RecipeDraft{Recipe: r.Recipe, Base: r.Base, Values: r.Values})
	}
	_, err = p.Plant().SaveRecipes(context.Background(), owner, "b", true, list, "")
	return time.Since(start), err
}

func counted(page *host.RecipePage, err error, want int) error {
	if err == nil && page.Count != want {
		err = fmt.Errorf("%d recipes, not %d", page.Count, want)
	}
	return err
}
