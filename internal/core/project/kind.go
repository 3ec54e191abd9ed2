package project

import (
	"cmp"
	"encoding/json"
	"maps"
	"reflect"
	"slices"
)

// Kind is what is told of a kind of thing to who asks from outside.
type ThingKind struct {
	Name string `json:"name"`
	// Stop is where things of the kind are worked on.
	Stop Stop `json:"stop"`
	// Opens says that the stop opens one of them by its id.
	Opens bool `json:"opens,omitempty"`
	// Paths says that the things are called by paths.
	Paths bool `json:"paths,omitempty"`
	// Within is where in a thing its parts lie that the stop opens by their own
	// ids: a pointer of one member, which the part's id follows.
	Within string `json:"within,omitempty"`
}

// sayText says a text in stored form and where it stands; own are wordings by
// language that the thing has beside it.
type sayText func(stored, where string, own ...map[string]string)

// kind is everything that a project does with the things of one kind. Load,
// edit, uses, check, readiness, wordings and finder go over the table of kinds;
// what is special to one stands in its own file and nowhere else.
type kind interface {
	told() ThingKind
	shape() reflect.Type
	ids(p *Project) []string // sorted
	get(p *Project, id string) any
	shown(p *Project, id string) any
	called(p *Project, id string) string // empty for none
	differing(a, b *Project) []string    // sorted

	begin(p *Project)  // with none
	copied(p *Project) // makes the kind's map the fork's own
	same(a, b *Project) bool
	put(p *Project, id string, doc json.RawMessage, shown bool) error
	reading() reading
	drop(p *Project, id string)
	comesOf(p *Project, id string) bool

	refersTo(p *Project, say func(target string, u Use))
	saysTexts(p *Project, say sayText)
	found(p *Project, has func(text string) bool, most int) []Hit
	checkAll(c *checker)
	toDo(p *Project) int

	edits() *editRules
}

// editRules are what is special to a kind when its things are edited. What is
// nil has nothing to say.
type editRules struct {
	// id refuses an id that the kind cannot have, beyond what holds for all.
	id func(id string) error
	// stays refuses to delete a thing.
	stays func() error
	// paths tells whether an op may hold formulas, which name paths.
	paths func(op Op) bool
	// names tells whether an op alters no formula, but may alter names that
	// formulas of the same thing use: those keep their ids and show the new names.
	names func(op Op) bool
	// translate turns an op at a thing that equipment has made into what it
	// means for the equipment; nil steps where the thing is nobody's.
	translate func(p *Project, op Op) ([]Op, error)
	// touched notes what else an edit of the thing concerns.
	touched func(t *touchedThings, p *Project, id string)
	// settle refuses what an edit as a whole may not leave behind, and renews what
	// is derived of the kind's things.
	settle func(p, old *Project, touched *touchedThings) error
}

// kindOf is a kind whose things are a T. Hooks that are nil have nothing to do.
type kindOf[T any] struct {
	ThingKind
	// of is where a project keeps the things, by id.
	of func(p *Project) *map[string]*T
	// read checks and completes what was decoded; shown tells in which form it
	// is. It alters nothing of the project.
	read func(p *Project, id string, t *T, shown bool) (*T, error)
	// show gives the thing as people read it, where that is another form.
	show func(p *Project, t *T) *T
	// name is what the thing is called in lists.
	name func(p *Project, id string, t *T) string
	// note is what the finder looks through and shows beside the name; a kind
	// without it is not found.
	note func(t *T) string
	// find is for a kind that has a quicker way to find its things.
	find func(p *Project, has func(text string) bool, most int) []string
	// refers says each thing that this one refers to: its id, the place, and
	// what the place is called within the thing.
	refers func(p *Project, t *T, say func(target, place, within string))
	// texts says what people read of the thing at the Desk, in stored form.
	texts func(p *Project, id string, t *T, say sayText)
	// made tells whether a thing comes of equipment and is not stored.
	made func(p *Project, id string) bool
	// gone takes out what comes of a thing that is deleted.
	gone func(p *Project, id string)
	// loaded completes the project once all things of the kind are read.
	loaded func(p *Project)
	// check says what there is to mend in all things of the kind.
	check func(c *checker)
	// work is how many things there are to get ready; nil where a stop's
	// readiness does not count them.
	work func(p *Project) int
	editRules
}

func (k *kindOf[T]) told() ThingKind                 { return k.ThingKind }
func (k *kindOf[T]) shape() reflect.Type             { return reflect.TypeFor[T]() }
func (k *kindOf[T]) edits() *editRules               { return &k.editRules }
func (k *kindOf[T]) things(p *Project) map[string]*T { return *k.of(p) }
func (k *kindOf[T]) ids(p *Project) []string         { return SortedKeys(k.things(p)) }

func (k *kindOf[T]) get(p *Project, id string) any {
	if t := k.things(p)[id]; t != nil {
		return t
	}
	return nil
}

func (k *kindOf[T]) shown(p *Project, id string) any {
	t := k.things(p)[id]
	switch {
	case t == nil:
		return nil
	case k.show == nil:
		return t
	}
	return k.show(p, t)
}

func (k *kindOf[T]) begin(p *Project) { *k.of(p) = map[string]*T{} }

func (k *kindOf[T]) copied(p *Project) {
	m := k.of(p)
	*m = maps.Clone(*m)
}

// same tells whether two versions share the kind's things, as none of them was
// altered between the two.
func (k *kindOf[T]) same(a, b *Project) bool {
	return reflect.ValueOf(k.things(a)).Pointer() == reflect.ValueOf(k.things(b)).Pointer()
}

func (k *kindOf[T]) decoded(p *Project, id string, doc json.RawMessage, shown bool) (*T, error) {
	t := new(T)
	into := decodeStored
	if shown {
		into = decode
	}
	if err := into(doc, t); err != nil {
		return nil, err
	}
	return k.read(p, id, t, shown)
}

func (k *kindOf[T]) put(p *Project, id string, doc json.RawMessage, shown bool) error {
	t, err := k.decoded(p, id, doc, shown)
	if err != nil {
		return err
	}
	p.take(k.Name)
	k.things(p)[id] = t
	return nil
}

func (k *kindOf[T]) drop(p *Project, id string) {
	p.take(k.Name)
	if k.gone != nil {
		k.gone(p, id)
	}
	delete(k.things(p), id)
}

func (k *kindOf[T]) comesOf(p *Project, id string) bool { return k.made != nil && k.made(p, id) }

func (k *kindOf[T]) refersTo(p *Project, say func(target string, u Use)) {
	if k.refers == nil {
		return
	}
	for id, t := range k.things(p) {
		name := k.name(p, id, t)
		k.refers(p, t, func(target, place, within string) {
			if target == "" {
				return
			}
			u := Use{k.Name, id, place, name}
			if within != "" {
				u.Name += " › " + within
			}
			say(target, u)
		})
	}
}

func (k *kindOf[T]) saysTexts(p *Project, say sayText) {
	if k.texts == nil {
		return
	}
	for _, id := range k.ids(p) {
		k.texts(p, id, k.things(p)[id], say)
	}
}

func (k *kindOf[T]) checkAll(c *checker) {
	if k.check != nil {
		k.check(c)
	}
}

func (k *kindOf[T]) toDo(p *Project) int {
	if k.work == nil {
		return 0
	}
	return k.work(p)
}

// kinds are the kinds of things, in the order in which they are loaded: what a
// thing is checked against comes before it.
var kinds []kind

var kindByName = map[string]kind{}

func init() {
	kinds = []kind{siteKind, deviceKind, typeKind, equipmentKind, folderKind, tagKind, alarmKind, viewKind, logKind, bookKind, screenKind,
		roleKind, ruleKind, lookKind, styleKind, pictureKind, wordsKind}
	for _, k := range kinds {
		kindByName[k.told().Name] = k
	}
}

// Kinds tells of every kind of thing that a project consists of.
func Kinds() []ThingKind {
	out := make([]ThingKind, len(kinds))
	for i, k := range kinds {
		out[i] = k.told()
	}
	return out
}

// Shapes are the types of the documents of things, by kind.
func Shapes() map[string]reflect.Type {
	out := map[string]reflect.Type{}
	for _, k := range kinds {
		out[k.told().Name] = k.shape()
	}
	return out
}

// Same tells whether nothing of some kinds was altered between two versions of a
// project.
func Same(a, b *Project, names ...string) bool {
	for _, name := range names {
		if !kindByName[name].same(a, b) {
			return false
		}
	}
	return true
}

// byName sorts kinds by their names.
func byName(list []kind) []kind {
	out := slices.Clone(list)
	slices.SortFunc(out, func(a, b kind) int { return cmp.Compare(a.told().Name, b.told().Name) })
	return out
}
