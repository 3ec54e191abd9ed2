package screen

var symbolKind = &Kind{Name: "symbol", Title: "Symbol", Stock: "", W: 96, H: 96, Holds: true,
	Props: props(Prop{Name: "symbol", Title: "Symbol", Type: TypeScreen, Default: ""}),
	does: does{
		mounts: func(e *Element) []Mount {
			return []Mount{{Screen: e.Text("symbol"), Args: e.Args, Place: "/props/symbol"}}
		},
		put: func(x *expander, e *Element, se *SceneElement, inner place) {
			x.face(e, se)
			x.nested(se, e.Text("symbol"), Args(e.Args), inner)
		},
	},
}

// NewSymbol is an element that shows a symbol with what is given for its
// parameters.
func NewSymbol(symbol string, args map[string]string) *Element {
	return &Element{Kind: symbolKind.Name, Props: map[string]any{"symbol": symbol}, Args: args}
}

// face lets a symbol open the faceplate of the equipment it is given.
func (x *expander) face(e *Element, se *SceneElement) {
	inner := x.look.Screen(e.Text("symbol"))
	if inner == nil {
		return
	}
	for _, p := range inner.Params {
		if p.Kind == ParamEquipment {
			x.openFace(e.Args[p.ID], se)
			return
		}
	}
}
