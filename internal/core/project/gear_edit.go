package project

import (
	"encoding/json"
	"errors"
	"slices"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/say"
)

// translate turns an edit of a tag or folder that equipment has made into one
// of the equipment. Any other edit is given back.
func (p *Project) translate(op Op) ([]Op, error) {
	if k := kindByName[op.Kind]; k != nil && k.edits().translate != nil {
		if steps, err := k.edits().translate(p, op); steps != nil || err != nil {
			return steps, err
		}
	}
	return []Op{op}, nil
}

func (p *Project) translateFolder(op Op, piece Piece) ([]Op, error) {
	e := p.Equipment[piece.Instance]
	if piece.Chain != "" || e == nil {
		return nil, refuse(op.Kind, op.ID, op.Path, say.Errorf("%s comes of the type %s: change it there", p.FolderPath(op.ID),
			p.typeName(piece.Type)))
	}
	to := map[string]string{"": "", "/name": "/name", "/parent": "/folder", "/description": "/description", "/area": "/area"}
	path, ok := to[op.Path]
	if !ok || op.Path == "" && op.Value != nil {
		return nil, refuse(op.Kind, op.ID, op.Path, say.New("equipment is edited as equipment"))
	}
	op.Kind, op.ID, op.Path = KindEquipment, e.ID, path
	return []Op{op}, nil
}

func (p *Project) typeName(id string) string {
	if t := p.Types[id]; t != nil {
		return t.Name
	}
	return "that is gone"
}

// translateMade turns what an edit sets at a tag or an alarm into what its
// instance has for itself, where the type leaves that to its instances.
func (p *Project) translateMade(op Op, g GearTag, name string) ([]Op, error) {
	if op.Path == "" && op.Value == nil {
		return nil, refuse(op.Kind, op.ID, "", say.Errorf("%s comes of the type %s: take it out there, or detach the equipment", name,
			p.typeName(g.Type)))
	}
	shown, _ := p.Shown(op.Kind, op.ID)
	if op.Was != nil && !sameJSON(valueAt(shown, op.Path), op.Was) {
		return nil, stale(op, valueAt(shown, op.Path), errOvertaken)
	}
	next, err := setValue(shown, op.Path, op.Value)
	if err != nil {
		return nil, refuse(op.Kind, op.ID, op.Path, err)
	}
	// Two stored forms of one formula may differ in the names that they keep
	// beside the ids: what people read is compared, and the stored form kept.
	stored := next
	if op.Kind == KindAlarm {
		a, err := p.typedAlarm(op.ID, next)
		if err != nil {
			return nil, refuse(op.Kind, op.ID, op.Path, err)
		}
		stored = mustJSON(a)
	}
	var was, now, keep map[string]json.RawMessage
	if err := errors.Join(json.Unmarshal(shown, &was), json.Unmarshal(next, &now), json.Unmarshal(stored, &keep)); err != nil {
		return nil, refuse(op.Kind, op.ID, op.Path, err)
	}
	e := p.Equipment[g.Instance]
	plain := p.typical(e, g.Chain)
	var out []Op
	for _, prop := range SortedKeys(union(was, now)) {
		if sameJSON(was[prop], now[prop]) {
			continue
		}
		if !slices.Contains(g.Differs, prop) {
			return nil, refuse(op.Kind, op.ID, "/"+prop, say.Errorf(
				"%s of %s comes of the type %s: change it there, or let it differ from one instance to another", prop, name, p.typeName(g.Type)))
		}
		step := Op{Kind: KindEquipment, ID: e.ID, Path: "/differs/" + g.Chain + "/" + prop}
		switch {
		case sameJSON(plain[prop], now[prop]):
		case keep[prop] == nil:
			step.Value = json.RawMessage("null")
		default:
			step.Value = keep[prop]
		}
		out = append(out, step)
	}
	return out, nil
}

// typical is the shown document of a tag or an alarm as it would be if its
// instance had nothing for itself there.
func (p *Project) typical(e *equipment.Instance, chain string) map[string]json.RawMessage {
	bare := *e
	bare.Differs = nil
	out := map[string]json.RawMessage{}
	x := equipment.Expand(&bare, p.Type)
	for _, t := range x.Tags {
		if t.Chain == chain {
			_ = json.Unmarshal(mustJSON(p.ShownTag(&t.Tag)), &out)
		}
	}
	for _, a := range x.Alarms {
		if a.Chain == chain {
			_ = json.Unmarshal(mustJSON(p.ShownAlarm(&a.Alarm)), &out)
		}
	}
	return out
}

func union[T any](a, b map[string]T) map[string]bool {
	out := make(map[string]bool, len(a)+len(b))
	for k := range a {
		out[k] = true
	}
	for k := range b {
		out[k] = true
	}
	return out
}
