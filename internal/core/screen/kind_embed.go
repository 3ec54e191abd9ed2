package screen

var embedKind = &Kind{Name: "embed", Title: "Screen within", Stock: "parts", W: 400, H: 240, Holds: true,
	Props: props(Prop{Name: "screen", Title: "Screen", Type: TypeScreen, Default: ""}),
	does: does{
		mounts: func(e *Element) []Mount {
			return []Mount{{Screen: e.Text("screen"), Args: e.Args, Place: "/props/screen"}}
		},
		put: func(x *expander, e *Element, se *SceneElement, inner place) {
			x.nested(se, e.Text("screen"), Args(e.Args), inner)
		},
	},
}
