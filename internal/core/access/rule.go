package access

import (
	"slices"
	"strings"

	"readyrail/internal/core/say"
)

// What a rule can be about.
const (
	DoesWrite   = "write"   // entries and buttons of screens, but for those that are held
	DoesDeliver = "deliver" // sending a recipe
	DoesApprove = "approve" // approving a version of a recipe, or withdrawing it
	DoesLimit   = "limit"   // another limit for an alarm, at the Desk
	DoesShelve  = "shelve"  // shelving an alarm, or taking it out of service
	DoesHold    = "hold"    // holding a tag at a value
)

// Acts are all that a rule can be about.
var Acts = []string{DoesWrite, DoesDeliver, DoesApprove, DoesLimit, DoesShelve, DoesHold}

// RightTo is the right that an act takes.
func RightTo(does string) Right {
	return map[string]Right{DoesWrite: Operate, DoesDeliver: Deliver, DoesApprove: Approve, DoesLimit: Limits, DoesShelve: Shelve,
		DoesHold: Override}[does]
}

// OfBook tells whether an act may be done to recipes of a book; "" is every act.
func OfBook(does string) bool { return does == "" || does == DoesDeliver || does == DoesApprove }

// How far a reason is asked for.
const (
	ReasonOffered  = "offered"  // it may be left out
	ReasonRequired = "required" // nothing is sent without it
)

// Whose signature is asked for.
const (
	SignOwn    = "own"    // of who acts
	SignSecond = "second" // of somebody else
	SignBoth   = "both"   // of who acts, and then of somebody else
)

// Asking is what a person is asked before what they do is carried out. The zero
// value asks nothing.
type Asking struct {
	Confirm bool   `json:"confirm,omitempty" doc:"it is said once more what would be sent"`
	Reason  string `json:"reason,omitempty" enum:",offered,required" doc:"empty for none"`
	// Reasons are what may be chosen for a reason; empty lets it be written freely.
	Reasons []string `json:"reasons,omitempty" doc:"to choose from; none lets it be written freely"`
	Sign    string   `json:"sign,omitempty" enum:",own,second,both" doc:"whose signature; empty for none"`
	// Roles are those that the second person has, every one of them.
	Roles []string `json:"roles,omitempty" doc:"that the second person has, each"`
	// Meanings are what a signature says, as 21 CFR 11.50 asks: "checked", "released".
	Meanings []string `json:"meanings,omitempty" doc:"what the signature means"`
	// Capture are the tags whose values the record keeps as they are then; nobody is
	// asked for them.
	Capture []string `json:"capture,omitempty" doc:"ids of tags whose values the record keeps as they are then"`
}

// Any tells whether a person is asked anything.
func (a *Asking) Any() bool { return a.Confirm || a.Reason != "" || a.Sign != "" }

// Some tells whether it is of any effect: a person is asked, or values are captured.
func (a *Asking) Some() bool { return a.Any() || len(a.Capture) > 0 }

// Rule says what is asked where: what applies at every place that it names. A
// field that is empty names every place.
type Rule struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Note string `json:"note,omitempty"` // why the site has it

	Area   string `json:"area,omitempty"`   // and all that lie in it
	Folder string `json:"folder,omitempty"` // and all within
	Type   string `json:"type,omitempty"`   // of the equipment that the tag is of
	Tag    string `json:"tag,omitempty"`
	Book   string `json:"book,omitempty"` // of the recipe that is sent or approved
	Does   string `json:"does,omitempty" enum:",write,deliver,approve,limit,shelve,hold" doc:"empty for all of them"`
	Role   string `json:"role,omitempty"` // of who acts

	Confirm bool     `json:"confirm,omitempty"`
	Reason  string   `json:"reason,omitempty" enum:",offered,required"`
	Reasons []string `json:"reasons,omitempty"`
	Sign    string   `json:"sign,omitempty" enum:",own,second,both"`
	By      string   `json:"by,omitempty"` // role of the second person
	Meaning string   `json:"meaning,omitempty"`
	// Capture are tags whose values the record keeps, as they are at that moment.
	Capture []string `json:"capture,omitempty"`
}

// MostCaptured bounds the values that one rule keeps with a record.
const MostCaptured = 20

// mostReasons bounds what a person is given to choose from.
const mostReasons = 40

// Check refuses a rule that cannot be, and says in which field.
func (r *Rule) Check() (field string, err error) {
	if n := len([]rune(strings.TrimSpace(r.Name))); n == 0 || n > 60 {
		return "name", say.Errorf("a rule needs a name of at most 60 characters")
	}
	if r.Does != "" && !slices.Contains(Acts, r.Does) {
		return "does", say.Errorf("a rule is about one of %s, or about all of them (empty), not %q", strings.Join(Acts, ", "), r.Does)
	}
	if !slices.Contains([]string{"", ReasonOffered, ReasonRequired}, r.Reason) {
		return "reason", say.Errorf("a reason is not asked for (empty), %s or %s, not %q", ReasonOffered, ReasonRequired, r.Reason)
	}
	if !slices.Contains([]string{"", SignOwn, SignSecond, SignBoth}, r.Sign) {
		return "sign", say.Errorf("a signature is not asked for (empty), or that of %s, %s or %s, not %q", SignOwn, SignSecond, SignBoth, r.Sign)
	}
	if len(r.Reasons) > mostReasons {
		return "reasons", say.Errorf("a rule offers at most %d reasons", mostReasons)
	}
	for _, x := range r.Reasons {
		if n := len([]rune(strings.TrimSpace(x))); n == 0 || n > 120 {
			return "reasons", say.Errorf("a reason to choose has 1 to 120 characters")
		}
	}
	if len(r.Capture) > MostCaptured {
		return "capture", say.Errorf("a rule keeps the values of at most %d tags", MostCaptured)
	}
	if len([]rune(r.Meaning)) > 60 || len([]rune(r.Note)) > 500 {
		return "meaning", say.Errorf("the meaning of a signature has at most 60 characters, a note at most 500")
	}
	return "", nil
}

// Asks is what the rule asks where it applies.
func (r *Rule) Asks() Asking {
	a := Asking{Confirm: r.Confirm, Reason: r.Reason, Sign: r.Sign, Capture: r.Capture}
	if r.Reason != "" {
		a.Reasons = r.Reasons
	}
	if r.Sign != "" && r.Meaning != "" {
		a.Meanings = []string{r.Meaning}
	}
	if r.By != "" && (r.Sign == SignSecond || r.Sign == SignBoth) {
		a.Roles = []string{r.By}
	}
	return a
}

// Place is where something is done: ids, each list with all that the place lies
// in.
type Place struct {
	Does                  string
	Areas, Folders, Types []string
	Tag, Book             string
	Roles                 []string // of who acts there
}

// At tells whether the rule is about a place and who acts there.
func (r *Rule) At(p *Place) bool {
	in := func(named string, all []string) bool { return named == "" || slices.Contains(all, named) }
	return (r.Does == "" || r.Does == p.Does) && (r.Tag == "" || r.Tag == p.Tag) && (r.Book == "" || r.Book == p.Book) &&
		in(r.Area, p.Areas) && in(r.Folder, p.Folders) && in(r.Type, p.Types) && in(r.Role, p.Roles)
}

// Strictest is what is asked where several apply: a reason that one of them
// requires is required; where one gives reasons to choose from, one of those that
// are given is chosen; every signature, role and meaning that one asks for is
// asked for.
func Strictest(all ...Asking) Asking {
	var out Asking
	own, second := false, false
	for _, a := range all {
		out.Confirm = out.Confirm || a.Confirm
		if a.Reason == ReasonRequired || out.Reason == "" {
			out.Reason = a.Reason
		}
		own = own || a.Sign == SignOwn || a.Sign == SignBoth
		second = second || a.Sign == SignSecond || a.Sign == SignBoth
		out.Reasons = union(out.Reasons, a.Reasons)
		out.Roles = union(out.Roles, a.Roles)
		out.Meanings = union(out.Meanings, a.Meanings)
		out.Capture = union(out.Capture, a.Capture)
	}
	switch {
	case own && second:
		out.Sign = SignBoth
	case own:
		out.Sign = SignOwn
	case second:
		out.Sign = SignSecond
	}
	return out
}

func union(a, b []string) []string {
	for _, x := range b {
		if !slices.Contains(a, x) {
			a = append(a[:len(a):len(a)], x)
		}
	}
	return a
}

// RolesIn lists the roles that a person has in an area, by id.
func (p *Policy) RolesIn(person, area string) []string {
	var out []string
	for _, g := range p.Grants {
		if g.Person == person && p.within(area, g.Area) && !slices.Contains(out, g.Role) {
			out = append(out, g.Role)
		}
	}
	return out
}
