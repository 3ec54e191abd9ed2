package screen

import (
	"fmt"
	"math"
)

// Index says which index of a path a repeat runs over.
type Index string

// The indices of a path such as Line[2].Fan[1].Speed.
const (
	LastIndex  Index = "last"
	FirstIndex Index = "first"
	EveryIndex Index = "every"
)

var repeatKind = &Kind{Name: "repeat", Title: "Repeat", Stock: "parts", W: 400, H: 240, Holds: true, Repeats: true,
	Props: props(Prop{Name: "symbol", Title: "What is repeated", Type: TypeScreen, Default: ""},
		choice("over", "Over", "type", "type", "array"),
		when(Prop{Name: "type", Title: "Equipment of type", Type: TypeType, Default: ""}, "over=type"),
		when(Prop{Name: "below", Title: "Below", Type: TypeFolder, Default: ""}, "over=type"),
		when(Prop{Name: "array", Title: "Any one of the array", Type: TypeTag, Folder: true, Default: ""}, "over=array"),
		when(choice("index", "Index that runs", string(LastIndex), string(LastIndex), string(FirstIndex), string(EveryIndex)), "over=array"),
		number("columns", "Columns", 4, false), number("gap", "Gap", 8, false)),
	does: does{
		mounts: func(e *Element) []Mount {
			m := Mount{Screen: e.Text("symbol"), Args: e.Args, Place: "/props/symbol", Repeats: true}
			if e.Text("over") == "array" {
				m.Array, m.Index = e.Text("array"), Index(e.Text("index"))
			}
			return []Mount{m}
		},
		put: putRepeat,
	},
}

func putRepeat(x *expander, e *Element, se *SceneElement, at place) {
	x.put(*se)
	inner := x.look.Screen(e.Text("symbol"))
	if inner == nil {
		return
	}
	var items []string
	if e.Text("over") == "type" {
		items = x.look.OfType(e.Text("type"), e.Text("below"))
	} else {
		items = x.look.Array(e.Text("array"), Index(e.Text("index")))
	}
	param := ""
	for _, p := range inner.Params {
		if p.Kind == ParamEquipment || p.Kind == ParamTag {
			param = p.ID
			break
		}
	}
	columns, _ := e.Number("columns")
	gap, _ := e.Number("gap")
	n := max(1, int(columns))
	w := max(1, (e.W-gap*float64(n-1))/float64(n))
	h := w * float64(inner.Height) / float64(max(1, inner.Width))
	for i, item := range items {
		args := Args{}
		for k, v := range e.Args {
			args[k], _ = x.look.Beside(e.Text("array"), item, v)
		}
		args[param] = item
		cell := SceneElement{ID: fmt.Sprintf("%s%d", at.prefix, i), Kind: "cell", In: se.ID, Name: x.named(item), Props: map[string]any{},
			X: float64(i%n) * (w + gap), Y: float64(i/n) * (h + gap), W: w, H: h}
		x.openFace(item, &cell)
		x.nested(&cell, inner.ID, args, at.within(cell.ID, cell.Name))
	}
}

// RepeatOver makes a repeat of a symbol: n cells, for everything that differs
// from what the parameter is given in an index of its path.
func (e *Element) RepeatOver(param string, which Index, n int) {
	const gap = 8
	columns := float64(min(max(1, n), 4))
	rows := math.Ceil(float64(max(1, n)) / columns)
	e.Kind = repeatKind.Name
	e.Props = map[string]any{"symbol": e.Text("symbol"), "over": "array", "array": e.Args[param], "index": string(which), "columns": columns,
		"gap": float64(gap)}
	delete(e.Args, param)
	e.W, e.H = columns*(e.W+gap)-gap, rows*(e.H+gap)-gap
}
