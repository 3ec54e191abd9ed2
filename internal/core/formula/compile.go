package formula

import (
	"errors"
	"strings"
	"unicode/utf8"

	"github.com/expr-lang/expr/ast"
	"github.com/expr-lang/expr/conf"
	"github.com/expr-lang/expr/file"
	"github.com/expr-lang/expr/parser"

	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Scope tells a compilation what its names mean.
type Scope struct {
	// Tag returns the slot and kind of a tag by its id.
	Tag func(id string) (slot int32, kind value.Kind, ok bool)
	// Path returns today's path of a tag, for sentences and columns.
	Path func(id string) (string, bool)
	// Params are parameters that stand for a value of a kind, held in the slots
	// given. It may be nil.
	Params map[string]Param
}

// Param is a plain name in scope.
type Param struct {
	Slot int32
	Kind value.Kind
}

// Program is a compiled formula. It is safe for use by several goroutines as
// long as each has a Frame of its own.
type Program struct {
	kind  value.Kind
	slots []int32
	node  node
}

// Kind is the kind of the result: BOOL, LINT, ULINT, LREAL or STRING.
func (p *Program) Kind() value.Kind { return p.kind }

// Slots are the slots the program may read, each once.
func (p *Program) Slots() []int32 { return p.slots }

// Compile checks and compiles a stored formula. The error is an *Error with
// its column in the text as Show gives it.
func Compile(stored string, scope Scope) (*Program, error) {
	c := &compiler{scope: scope, refs: map[string]reference{}}
	tree, err := c.parse(stored)
	if err != nil {
		return nil, err
	}
	n, err := c.compile(tree)
	if err != nil {
		return nil, err
	}
	return &Program{kind: n.kind(), slots: c.slots, node: n}, nil
}

// parse gives the tree of a stored formula.
func (c *compiler) parse(stored string) (ast.Node, error) {
	text, err := c.disguise(stored)
	if err != nil {
		return nil, err
	}
	if strings.TrimSpace(text) == "" {
		return nil, &Error{Length: 1, Why: say.New("the formula is empty")}
	}
	tree, err := parser.ParseWithConfig(text, &conf.Config{MaxNodes: 1000, DisableIfOperator: true})
	if err != nil {
		var fe *file.Error
		if errors.As(err, &fe) {
			return nil, &Error{Column: fe.From, Length: 1, Why: c.syntax(fe.Message)}
		}
		return nil, &Error{Length: 1, Why: err}
	}
	return tree.Node, nil
}

type reference struct {
	slot int32
	kind value.Kind
}

type compiler struct {
	scope Scope
	refs  map[string]reference // by disguised name
	slots []int32
}

// A path holds dots and brackets that the parser would take apart. Each is
// disguised as one identifier of the same length, so that columns stay those
// of the text people see.
var disguise = strings.NewReplacer(".", "ǀ", "[", "ǁ", "]", "ǂ")
var undisguise = strings.NewReplacer("ǀ", ".", "ǁ", "[", "ǂ", "]")

func (c *compiler) disguise(stored string) (string, error) {
	var b strings.Builder
	for _, p := range splitStored(stored) {
		if p.path {
			slot, kind, ok := c.scope.Tag(p.id)
			if ok {
				if now, found := c.scope.Path(p.id); found {
					p.text = now
				}
			}
			if !ok {
				why := say.Errorf("the tag %s no longer exists", p.text)
				if p.id == Unresolved {
					why = unknownName(p.text, stored)
				}
				return "", &Error{Column: utf8.RuneCountInString(b.String()), Length: utf8.RuneCountInString(p.text), Why: why}
			}
			p.text = disguise.Replace(p.text)
			c.refs[p.text] = reference{slot, kind}
		}
		b.WriteString(p.text)
	}
	return b.String(), nil
}

// syntax puts the parser's sentence into ours.
func (c *compiler) syntax(message string) error {
	if strings.HasSuffix(message, "token EOF") {
		return say.New("the formula ends too early: something is missing behind this")
	}
	if what, ok := strings.CutPrefix(message, "unexpected token "); ok {
		return say.Errorf("this does not fit here: %s", c.reveal(what))
	}
	return say.Errorf("%s", c.reveal(message))
}

func (c *compiler) reveal(s string) string { return undisguise.Replace(s) }

func (c *compiler) fail(n ast.Node, format string, args ...any) error {
	loc := n.Location()
	return &Error{Column: loc.From, Length: max(1, loc.To-loc.From), Why: say.Errorf(format, args...)}
}

func (c *compiler) use(slot int32) int32 {
	for _, s := range c.slots {
		if s == slot {
			return slot
		}
	}
	c.slots = append(c.slots, slot)
	return slot
}

// spoken is how sentences name a kind.
func spoken(k value.Kind) say.Term {
	switch k {
	case value.BOOL:
		return say.Term("a BOOL")
	case value.STRING:
		return say.Term("a text")
	case value.LREAL:
		return say.Term("a number")
	}
	return say.Term("a whole number")
}

func (c *compiler) compile(n ast.Node) (node, error) {
	switch n := n.(type) {
	case *ast.IdentifierNode:
		return c.identifier(n)
	case *ast.IntegerNode:
		return constInt(int64(n.Value)), nil
	case *ast.FloatNode:
		return constReal(n.Value), nil
	case *ast.BoolNode:
		return constBool(n.Value), nil
	case *ast.StringNode:
		return constText(n.Value), nil
	case *ast.UnaryNode:
		return c.unary(n)
	case *ast.BinaryNode:
		return c.binary(n)
	case *ast.ConditionalNode:
		return c.conditional(n)
	case *ast.CallNode:
		return c.call(n, n.Callee, n.Arguments)
	case *ast.BuiltinNode:
		return c.callNamed(n, n.Name, n.Arguments)
	case *ast.MemberNode:
		return nil, c.fail(n, "a member or index cannot follow a computed value: name the tag in full, as in Kiln1.Fan[2].Running")
	}
	return nil, c.fail(n, "this is not part of the formula language")
}

func (c *compiler) identifier(n *ast.IdentifierNode) (node, error) {
	if r, ok := c.refs[n.Value]; ok {
		return load(c.use(r.slot), r.kind), nil
	}
	if p, ok := c.scope.Params[n.Value]; ok {
		return load(c.use(p.Slot), p.Kind), nil
	}
	return nil, c.fail(n, "there is no tag %s", c.reveal(n.Value))
}

func (c *compiler) unary(n *ast.UnaryNode) (node, error) {
	x, err := c.compile(n.Node)
	if err != nil {
		return nil, err
	}
	switch n.Operator {
	case "!", "not":
		if b, ok := x.(boolNode); ok {
			return boolNode(func(f *Frame) bool { return !b(f) }), nil
		}
		return nil, c.fail(n, "not takes a BOOL, and this is %s", spoken(x.kind()))
	case "-":
		switch x := x.(type) {
		case intNode:
			return intNode(func(f *Frame) int64 { return f.negate(x(f)) }), nil
		case realNode:
			return realNode(func(f *Frame) float64 { return -x(f) }), nil
		case uintNode:
			return intNode(func(f *Frame) int64 { return f.negate(f.toInt(x(f))) }), nil
		}
	case "+":
		if isNumber(x) {
			return x, nil
		}
	}
	return nil, c.fail(n, "%s takes a number, and this is %s", n.Operator, spoken(x.kind()))
}

func (c *compiler) conditional(n *ast.ConditionalNode) (node, error) {
	cond, err := c.compile(n.Cond)
	if err != nil {
		return nil, err
	}
	test, ok := cond.(boolNode)
	if !ok {
		return nil, c.fail(n.Cond, "what stands before ? is a BOOL, and this is %s", spoken(cond.kind()))
	}
	a, err := c.compile(n.Exp1)
	if err != nil {
		return nil, err
	}
	b, err := c.compile(n.Exp2)
	if err != nil {
		return nil, err
	}
	a, b, ok = unify(a, b)
	if !ok {
		return nil, c.fail(n.Exp2, "both sides of : have one type; these are %s and %s", spoken(a.kind()), spoken(b.kind()))
	}
	return choose(test, a, b), nil
}
