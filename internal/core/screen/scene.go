package screen

import "readyrail/internal/core/history"

// Scene is a screen ready to be drawn: elements from the lowest to the
// highest, and the bindings whose values follow in frames.
type Scene struct {
	Screen     string         `json:"screen"`
	Name       string         `json:"name"`
	Title      string         `json:"title"`
	Role       Role           `json:"role,omitempty"`
	Width      int            `json:"width"`
	Height     int            `json:"height"`
	Background string         `json:"background"`
	Args       Args           `json:"args,omitempty"`   // with defaults
	Params     []SceneParam   `json:"params,omitempty"` // that can be given another value
	Elements   []SceneElement `json:"elements"`
	Bindings   []Target       `json:"bindings"`
	// Books are those of which it shows what is open at the page that looks: the page
	// tells that.
	Books []string `json:"books,omitempty"`
}

// SceneParam is a parameter with what may be chosen for it.
type SceneParam struct {
	ID      string        `json:"id"`
	Title   string        `json:"title"`
	Choices []ParamChoice `json:"choices,omitempty"`
}

// ParamChoice is one value of a parameter, and its name.
type ParamChoice struct {
	Value string `json:"value"`
	Title string `json:"title"`
}

// SceneElement is an element with every property filled in.
type SceneElement struct {
	ID      string            `json:"id"`
	Kind    string            `json:"kind"` // of the catalogue, or cell: one place of a repeat or a tab
	Name    string            `json:"name,omitempty"`
	In      string            `json:"in,omitempty"` // id of the element that holds it
	X       float64           `json:"x"`
	Y       float64           `json:"y"`
	W       float64           `json:"w"`
	H       float64           `json:"h"`
	Angle   float64           `json:"angle,omitempty"`
	Points  []float64         `json:"points,omitempty"`
	Content *Size             `json:"content,omitempty"` // what it holds is drawn at this size and scaled
	Tab     int               `json:"tab,omitempty"`     // of a cell, counted from 1
	Tabs    []string          `json:"tabs,omitempty"`    // titles
	Rows    []Row             `json:"rows,omitempty"`    // of a table
	Pens    []history.ViewPen `json:"pens,omitempty"`    // of a trend
	Props   map[string]any    `json:"props"`
	Looks   []map[string]any  `json:"looks,omitempty"`
	Tag     *TagInfo          `json:"tag,omitempty"`
	Opens   *Opens            `json:"opens,omitempty"`
	Then    []SceneAction     `json:"then,omitempty"`
	Problem string            `json:"problem,omitempty"` // why it cannot show what it holds
}

// Size is a width and height in pixels.
type Size struct {
	W float64 `json:"w"`
	H float64 `json:"h"`
}

// Row is a line of a table.
type Row struct {
	Title string   `json:"title"`
	Tag   *TagInfo `json:"tag,omitempty"`
}

// Opens is a screen with what is given for its parameters.
type Opens struct {
	Screen string `json:"screen"`
	Args   Args   `json:"args,omitempty"`
}

// SceneAction is a further step of a button. Its condition is the live
// property then0, then1, …
type SceneAction struct {
	Do       string  `json:"do"`
	Opens    *Opens  `json:"opens,omitempty"`
	Device   string  `json:"device,omitempty"`
	Language string  `json:"language,omitempty"`
	Param    string  `json:"param,omitempty"`
	Value    string  `json:"value,omitempty"`
	By       float64 `json:"by,omitempty"`
}

// TagInfo is what an element's interface needs to know of its tag.
type TagInfo struct {
	ID       string      `json:"id"`
	Path     string      `json:"path"`
	Kind     string      `json:"kind"`
	Unit     string      `json:"unit,omitempty"`
	Low      string      `json:"low,omitempty"` // as people read it
	High     string      `json:"high,omitempty"`
	From     *float64    `json:"from,omitempty"` // the limits as numbers
	To       *float64    `json:"to,omitempty"`
	Step     float64     `json:"step,omitempty"`
	Decimals int         `json:"decimals"` // -1 when none are set
	States   []StateInfo `json:"states,omitempty"`
	Writable bool        `json:"writable"`
	// Edits is set where what is entered is an edit of the recipe that is open.
	Edits *RecipeField `json:"edits,omitempty"`
	// Marks are where its alarms come.
	Marks []LimitMark `json:"marks,omitempty"`
}

// RecipeField is a field of a book of recipes.
type RecipeField struct {
	Book  string `json:"book"`
	Field string `json:"field"`
}

// LimitMark is the limit of an alarm on its signal's scale.
type LimitMark struct {
	Priority string  `json:"priority" enum:"critical,high,medium,low"`
	At       float64 `json:"at"`
}

// StateInfo names a value.
type StateInfo struct {
	Value int64  `json:"value"`
	Text  string `json:"text"`
}

// Target is where a binding's values go.
type Target struct {
	Element string `json:"element"`
	Prop    string `json:"prop"`
}
