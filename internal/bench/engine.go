package bench

import (
	"encoding/json"
	"fmt"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
)

// large makes a project of n tags in folders of a hundred, neighbours in path
// and address as a controller's program leaves them: scaled device tags, and one computed tag in
// ten. The device is switched off where live is false.
func large(n int, live bool) (*project.Project, error) {
	ops := []project.Op{{Kind: project.KindDevice, ID: "d1", Value: json.RawMessage(fmt.Sprintf(
		`{"name":"PLC","protocol":"modbus-tcp","host":"127.0.0.1","port":1,"unit":1,"order":"ABCD","numbering":0,"poll":1000,"timeout":500,"maxGap":16,"maxBlock":125,"off":%v}`, !live))}}
	folders := n / 100
	for f := range folders {
		ops = append(ops, project.Op{Kind: project.KindFolder, ID: fmt.Sprintf("f%d", f),
			Value: json.RawMessage(fmt.Sprintf(`{"name":"Unit%d"}`, f))})
	}
	for i := range n {
		folder := fmt.Sprintf("f%d", i/100)
		if i%10 == 9 {
			doc := fmt.Sprintf(`{"name":"C%d","folder":%q,"type":"LREAL","source":"computed","formula":"Unit%d.T%d * 2 + 1"}`, i, folder,
				(i-1)/100, i-1)
			ops = append(ops, project.Op{Kind: project.KindTag, ID: fmt.Sprintf("t%d", i), Value: json.RawMessage(doc)})
			continue
		}
		doc := fmt.Sprintf(`{"name":"T%d","folder":%q,"type":"INT","source":"device","device":"d1","address":"holding:%d","scale":{"rawLow":0,"rawHigh":1000,"engLow":0,"engHigh":100}}`, i, folder, i)
		ops = append(ops, project.Op{Kind: project.KindTag, ID: fmt.Sprintf("t%d", i), Value: json.RawMessage(doc)})
	}
	// Formulas name what the same edit makes: tags first, so that the index is
	// built once.
	var plain, computed []project.Op
	for _, op := range ops {
		if op.Kind == project.KindTag && op.ID[len(op.ID)-1] == '9' {
			computed = append(computed, op)
		} else {
			plain = append(plain, op)
		}
	}
	p, _, err := project.New("Bench").Edit(plain)
	if err != nil {
		return nil, err
	}
	for i := range computed {
		var doc map[string]any
		if err := json.Unmarshal(computed[i].Value, &doc); err != nil {
			return nil, err
		}
		stored, err := p.StoreFormula(doc["formula"].(string))
		if err != nil {
			return nil, err
		}
		doc["formula"] = stored
		b, err := json.Marshal(doc)
		if err != nil {
			return nil, err
		}
		computed[i].Value = b
	}
	entities := p.Entities()
	for _, op := range computed {
		entities = append(entities, project.Entity{Kind: op.Kind, ID: op.ID, Doc: op.Value})
	}
	return project.Load(entities)
}

const largeTags = 50_000

// engines measures changes a second through scaling, computed tags, alarms and
// subscribers, against a bare loop of the same arithmetic.
func engines() ([]Figure, error) {
	p, err := large(largeTags, true)
	if err != nil {
		return nil, err
	}
	if p, err = withAlarms(p, largeAlarms); err != nil {
		return nil, err
	}
	now := time.Unix(1_800_000_000, 0)
	e := engine.New(engine.Compile(p, nil, engine.Options{}), now)
	// Ten screens of 300 tags look on.
	var subs []*engine.Sub
	for s := range 10 {
		ids := make([]string, 300)
		for i := range ids {
			ids[i] = fmt.Sprintf("t%d", (s*4999+i*7)%largeTags)
		}
		subs = append(subs, e.Subscribe(ids))
	}
	var slots []int32
	for i := range largeTags {
		if i%10 != 9 {
			slot, _ := e.Program().Slot(fmt.Sprintf("t%d", i))
			slots = append(slots, slot)
		}
	}
	// The batches are made beforehand, as drivers make them; every value differs
	// from the one before it in its slot.
	const size = 1000
	var batches [][]engine.Update
	for range 2 * len(slots) / size {
		b := make([]engine.Update, size)
		for i := range b {
			at := len(batches)*size + i
			b[i] = engine.Update{Slot: slots[at%len(slots)], Value: value.Int(value.INT, int64(at*7%1000+at/len(slots)))}
		}
		batches = append(batches, b)
	}
	taken := make([]value.Value, 300)
	changes, next, round := 0, 0, int64(0)
	step := func() {
		batch := batches[int(round)%len(batches)]
		round++
		now = now.Add(time.Millisecond)
		e.Update(batch, now)
		if round%50 == 0 {
			e.Tick(now)
			e.TakeAlarmEvents()
			for _, s := range subs {
				s.Take(taken, nil, nil)
			}
		}
		changes += size
	}
	for range 200 {
		step()
	}
	changes = 0
	start := time.Now()
	for time.Since(start) < time.Second {
		step()
	}
	ours := float64(changes) / time.Since(start).Seconds()

	// The bare loop: fetch the raw value, scale, compare, store, and one
	// formula in ten.
	raw, eng, comp := make([]float64, largeTags), make([]float64, largeTags), make([]float64, largeTags)
	high := make([]bool, largeTags)
	changes, next = 0, 0
	start = time.Now()
	for time.Since(start) < time.Second {
		round++
		for i := range size {
			raw[next] = float64((round + int64(i)) % 1000)
			v := raw[next]*100/1000 + 0
			if eng[next] != v {
				eng[next] = v
				if next%9 == 8 {
					comp[next] = v*2 + 1
				}
				if next%9 == 0 {
					high[next] = v > alarmLimit
				}
			}
			if next++; next == len(slots) {
				next = 0
			}
		}
		changes += size
	}
	bare := float64(changes) / time.Since(start).Seconds()
	return []Figure{
		ratio("engine/change", "ns", 1e9/ours, 1e9/bare, 15),
		above("engine/changes", "M/s", ours/1e6, 8),
	}, nil
}
