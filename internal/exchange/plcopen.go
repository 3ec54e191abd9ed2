package exchange

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
)

// PLCopen XML (IEC 61131-10 and its forerunner TC6, 2.00 and 2.01): global
// variables with their located addresses, arrays, derived structures, initial
// values and documentation. What a vendor adds in addData is skipped.

// plcType is a type as the document gives it.
type plcType struct {
	simple  string   // one of ours
	derived string   // name of a derived type
	of      *plcType // element of an array
	dims    [][2]int
	bad     error
}

type plcMember struct {
	name, comment, initial string
	typ                    *plcType
}

type plcReader struct {
	types map[string]*plcDerived
	open  map[string]bool // derived types that are being unfolded
	sizes map[string]int  // in words, of derived types; -1 while being computed
	rows  []Row
	limit error
	// within are the structures that are being unfolded, the outermost first.
	within []Structure
}

type plcDerived struct {
	members []plcMember // of a structure
	alias   *plcType    // of anything else
	enum    string      // state names, as our column writes them
}

// ReadPLCopen reads the global variables of a document. Derived structures and
// arrays become folders and indices.
func ReadPLCopen(data []byte) ([]Row, error) {
	root, err := readXML(data, func(name string) bool { return name == "addData" })
	if err != nil {
		return nil, err
	}
	if root.name != "project" && root.name != "Project" {
		return nil, say.Errorf("the root element is %s: PLCopen XML has project", root.name)
	}
	r := &plcReader{types: map[string]*plcDerived{}, open: map[string]bool{}, sizes: map[string]int{}}
	root.all("dataType", func(n *node) {
		if name := n.attrs["name"]; name != "" {
			r.types[strings.ToLower(name)] = readDerived(n)
		}
	})
	found := false
	root.all("globalVars", func(list *node) {
		found = true
		var folder []string
		if name := list.attrs["name"]; name != "" {
			folder = []string{name}
		}
		for _, v := range list.kids {
			if v.name == "variable" {
				r.variable(v, folder)
			}
		}
	})
	if r.limit != nil {
		return nil, r.limit
	}
	if !found {
		return nil, say.New("the document has no global variables: export the list of global variables")
	}
	return r.rows, nil
}

func readDerived(n *node) *plcDerived {
	base := n.child("baseType")
	if base == nil {
		return &plcDerived{}
	}
	if s := base.child("struct"); s != nil {
		d := &plcDerived{}
		for _, v := range s.kids {
			if v.name == "variable" {
				d.members = append(d.members, readMember(v))
			}
		}
		return d
	}
	if e := base.child("enum"); e != nil {
		var states []string
		next := int64(0)
		e.all("value", func(v *node) {
			if n, err := strconv.ParseInt(v.attrs["value"], 10, 64); err == nil {
				next = n
			}
			states = append(states, fmt.Sprintf("%d=%s", next, v.attrs["name"]))
			next++
		})
		return &plcDerived{alias: &plcType{simple: "INT"}, enum: strings.Join(states, ", ")}
	}
	return &plcDerived{alias: readType(base, 0)}
}

func readMember(v *node) plcMember {
	m := plcMember{name: v.attrs["name"], typ: readType(v.child("type"), 0)}
	if doc := v.child("documentation"); doc != nil {
		m.comment = doc.deepText()
	}
	if init := v.child("initialValue"); init != nil {
		if s := init.child("simpleValue"); s != nil {
			m.initial = s.attrs["value"]
		}
	}
	return m
}

// readType reads the content of a type element.
func readType(n *node, depth int) *plcType {
	if n == nil || len(n.kids) == 0 || depth > maxDepth {
		return &plcType{bad: say.New("the variable has no type")}
	}
	k := n.kids[0]
	switch k.name {
	case "derived":
		return &plcType{derived: k.attrs["name"]}
	case "array":
		t := &plcType{of: readType(k.child("baseType"), depth+1)}
		for _, d := range k.kids {
			if d.name != "dimension" {
				continue
			}
			low, err1 := strconv.Atoi(d.attrs["lower"])
			high, err2 := strconv.Atoi(d.attrs["upper"])
			if err1 != nil || err2 != nil || high < low {
				return &plcType{bad: say.Errorf("an array from %s to %s", d.attrs["lower"], d.attrs["upper"])}
			}
			t.dims = append(t.dims, [2]int{low, high})
		}
		return t
	case "string", "wstring":
		length := k.attrs["length"]
		if length == "" {
			length = "80"
		}
		return &plcType{simple: "STRING(" + length + ")"}
	case "subrangeSigned", "subrangeUnsigned":
		return readType(k.child("baseType"), depth+1)
	}
	simple, err := usualType(k.name)
	if err != nil {
		return &plcType{bad: say.Errorf("%s is not a type that a tag can have", k.name)}
	}
	return &plcType{simple: simple}
}

func (r *plcReader) variable(v *node, folder []string) {
	m := readMember(v)
	r.unfold(v.line, append(folder[:len(folder):len(folder)], m.name), m, v.attrs["address"], "", 0)
}

// unfold makes rows of a variable: one for a simple type, one for each member
// or element of others. Only the first of an array at a located address has
// that address; the others follow in steps of the element's size.
func (r *plcReader) unfold(line int, path []string, m plcMember, address, states string, depth int) {
	t := m.typ
	switch {
	case r.limit != nil:
	case t.bad != nil || depth > maxDepth:
		if t.bad == nil {
			t.bad = say.New("its type is nested too deep")
		}
		r.add(line, path, m, "", address, states, t.bad)
	case t.simple != "":
		r.add(line, path, m, t.simple, address, states, nil)
	case t.derived != "":
		key := strings.ToLower(t.derived)
		d := r.types[key]
		if r.open[key] {
			r.add(line, path, m, "", address, states, say.Errorf("the derived type %s lies in itself", t.derived))
			return
		}
		r.open[key] = true
		defer delete(r.open, key)
		switch {
		case d == nil:
			r.add(line, path, m, "", address, states, say.Errorf("the derived type %s is not in the document", t.derived))
		case d.alias != nil:
			m.typ = d.alias
			r.unfold(line, path, m, address, d.enum, depth+1)
		default:
			r.within = append(r.within, Structure{tag.FitPath(path), t.derived})
			defer func() { r.within = r.within[:len(r.within)-1] }()
			offset := 0
			for _, sub := range d.members {
				at := stepLocated(address, offset)
				if address != "" {
					offset += r.words(sub.typ, 0)
				}
				r.unfold(line, append(path[:len(path):len(path)], sub.name), sub, at, "", depth+1)
			}
		}
	case t.of != nil:
		elem := m
		elem.typ, elem.initial = t.of, ""
		size := r.words(t.of, 0)
		n := 0
		eachIndex(t.dims, func(index string) bool {
			last := len(path) - 1
			p := append(path[:last:last], path[last]+index)
			at := address
			switch {
			case n > 0 && size == 0:
				at = stepBit(address, n)
			case n > 0:
				at = stepLocated(address, n*size)
			}
			r.unfold(line, p, elem, at, states, depth+1)
			n++
			return r.limit == nil
		})
	}
}

// eachIndex visits "[1]", "[2]", … of an array's dimensions.
func eachIndex(dims [][2]int, visit func(string) bool) bool {
	if len(dims) == 0 {
		return visit("")
	}
	for i := dims[0][0]; i <= dims[0][1]; i++ {
		if !eachIndex(dims[1:], func(rest string) bool { return visit("[" + strconv.Itoa(i) + "]" + rest) }) {
			return false
		}
	}
	return true
}

// words is the size of a type in 16-bit words, for stepping through located
// arrays and structures; 0 for a BOOL, which steps by bits.
func (r *plcReader) words(t *plcType, depth int) int {
	if depth > maxDepth {
		return 1
	}
	switch {
	case t.of != nil:
		n := 1
		for _, d := range t.dims {
			n *= d[1] - d[0] + 1
		}
		return n * max(1, r.words(t.of, depth+1))
	case t.derived != "":
		return r.derivedWords(strings.ToLower(t.derived), depth)
	}
	switch t.simple {
	case "BOOL":
		return 0
	case "DINT", "UDINT", "REAL":
		return 2
	case "LINT", "ULINT", "LREAL":
		return 4
	}
	if strings.HasPrefix(t.simple, "STRING(") {
		n, _ := strconv.Atoi(strings.TrimSuffix(t.simple[7:], ")"))
		return (n + 1) / 2
	}
	return 1
}

// derivedWords is words of a derived type, computed once; a type that lies in
// itself counts as one word, and is refused when it is unfolded.
func (r *plcReader) derivedWords(key string, depth int) int {
	if n, known := r.sizes[key]; known {
		return max(1, n)
	}
	r.sizes[key] = -1
	n := 1
	if d := r.types[key]; d != nil {
		if d.alias != nil {
			n = r.words(d.alias, depth+1)
		} else {
			n = 0
			for _, m := range d.members {
				n += max(1, r.words(m.typ, depth+1))
			}
		}
	}
	r.sizes[key] = n
	return n
}

func (r *plcReader) add(line int, path []string, m plcMember, typ, address, states string, problem error) {
	if len(r.rows) == MaxRows {
		r.limit = say.Errorf("the document has more than %d variables: split it", MaxRows)
		return
	}
	was := strings.Join(path, ".")
	row := Row{Line: line, Fields: map[string]string{"path": tag.FitPath(path), "type": typ, "description": m.comment},
		Within: slices.Clone(r.within)}
	if row.Fields["path"] != was {
		row.Was = was
	}
	if address != "" {
		row.Fields["address"] = address
		row.Fields["source"] = "device"
	} else {
		row.Fields["source"] = "internal"
		row.Fields["initial"] = plainInitial(m.initial)
	}
	if states != "" {
		row.Fields["states"] = states
	}
	if problem != nil {
		row.Problem = &Cell{"type", problem}
	}
	r.rows = append(r.rows, row)
}

// plainInitial takes what IEC 61131-3 writes around a constant off it.
func plainInitial(s string) string {
	s = strings.TrimSpace(s)
	if i := strings.IndexByte(s, '#'); i >= 0 && !strings.HasPrefix(s, "'") {
		if n, err := strconv.ParseInt(s[i+1:], baseOf(s[:i]), 64); err == nil {
			return strconv.FormatInt(n, 10)
		}
		s = s[i+1:]
	}
	if len(s) >= 2 && (s[0] == '\'' || s[0] == '"') && s[len(s)-1] == s[0] {
		return s[1 : len(s)-1]
	}
	return s
}

func baseOf(prefix string) int {
	switch prefix[strings.LastIndexByte(prefix, '#')+1:] {
	case "16":
		return 16
	case "8":
		return 8
	case "2":
		return 2
	}
	return 10
}
