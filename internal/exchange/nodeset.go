package exchange

import (
	"strconv"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
)

// NodeSet2 XML (IEC 62541-6, annex F): the variables of an address space, with
// their paths from the object that nobody in the file points to.

// builtin are the data types of namespace 0 that a tag can have, by their
// number and by their name.
var builtin = map[string]string{
	"1": "BOOL", "2": "SINT", "3": "USINT", "4": "INT", "5": "UINT", "6": "DINT", "7": "UDINT", "8": "LINT", "9": "ULINT", "10": "REAL",
	"11": "LREAL", "12": "STRING(80)",
	"boolean": "BOOL", "sbyte": "SINT", "byte": "USINT", "int16": "INT", "uint16": "UINT", "int32": "DINT", "uint32": "UDINT",
	"int64": "LINT", "uint64": "ULINT", "float": "REAL", "double": "LREAL", "string": "STRING(80)",
}

// forward references that lead down the address space.
var downward = map[string]bool{"HasComponent": true, "i=47": true, "Organizes": true, "i=35": true, "HasProperty": true, "i=46": true,
	"HasOrderedComponent": true, "i=49": true}

type nodeSet struct {
	nodes  map[string]*node
	parent map[string]string
	alias  map[string]string
}

// ReadNodeSet reads the variables of a node set.
func ReadNodeSet(data []byte) ([]Row, error) {
	root, err := readXML(data, func(name string) bool { return name == "Extensions" || name == "Extension" })
	if err != nil {
		return nil, err
	}
	if root.name != "UANodeSet" {
		return nil, say.Errorf("the root element is %s: a node set has UANodeSet", root.name)
	}
	s := &nodeSet{nodes: map[string]*node{}, parent: map[string]string{}, alias: map[string]string{}}
	if list := root.child("Aliases"); list != nil {
		for _, a := range list.kids {
			s.alias[a.attrs["Alias"]] = strings.TrimSpace(a.text.String())
		}
	}
	var order []string
	for _, n := range root.kids {
		id := n.attrs["NodeId"]
		if id == "" {
			continue
		}
		s.nodes[id] = n
		order = append(order, id)
	}
	for _, id := range order {
		s.link(id)
	}
	var rows []Row
	for _, id := range order {
		n := s.nodes[id]
		if n.name != "UAVariable" {
			continue
		}
		if len(rows) >= MaxRows {
			return nil, say.Errorf("the node set has more than %d variables: split it", MaxRows)
		}
		rows = append(rows, s.variable(id, n)...)
	}
	if len(rows) == 0 {
		return nil, say.New("the node set has no variables")
	}
	return rows, nil
}

// link notes who lies in whom, from either end of the reference.
func (s *nodeSet) link(id string) {
	n := s.nodes[id]
	if p := n.attrs["ParentNodeId"]; p != "" {
		s.parent[id] = p
	}
	refs := n.child("References")
	if refs == nil {
		return
	}
	for _, r := range refs.kids {
		typ := r.attrs["ReferenceType"]
		if !downward[typ] && !downward[s.alias[typ]] {
			continue
		}
		other := strings.TrimSpace(r.text.String())
		if r.attrs["IsForward"] == "false" {
			if s.parent[id] == "" {
				s.parent[id] = other
			}
		} else if s.parent[other] == "" {
			s.parent[other] = id
		}
	}
}

func (s *nodeSet) name(n *node) string {
	name := n.attrs["BrowseName"]
	if _, rest, ok := strings.Cut(name, ":"); ok {
		name = rest
	}
	return name
}

func (s *nodeSet) variable(id string, n *node) []Row {
	path := []string{s.name(n)}
	for up, depth := s.parent[id], 0; up != "" && depth < maxDepth; depth++ {
		p := s.nodes[up]
		if p == nil || p.name != "UAObject" && p.name != "UAVariable" {
			break
		}
		path = append([]string{s.name(p)}, path...)
		up = s.parent[up]
	}
	typ, known := s.typeOf(n.attrs["DataType"])
	row := Row{Line: n.line, Fields: map[string]string{"source": "device", "address": id, "access": "read"}}
	if level, err := strconv.ParseUint(n.attrs["AccessLevel"], 10, 32); err == nil && level&2 != 0 {
		row.Fields["access"] = "readwrite"
	}
	if d := n.child("Description"); d != nil {
		row.Fields["description"] = d.deepText()
	}
	if !known {
		row.Problem = &Cell{"type", say.Errorf("data type %s is not one that a tag can have", n.attrs["DataType"])}
	}
	row.Fields["type"] = typ
	dims := n.attrs["ArrayDimensions"]
	if n.attrs["ValueRank"] != "1" || dims == "" || dims == "0" {
		return []Row{s.named(row, path)}
	}
	count, err := strconv.Atoi(dims)
	if err != nil || count > 10_000 {
		row.Problem = &Cell{"type", say.Errorf("an array of %s values", dims)}
		return []Row{s.named(row, path)}
	}
	var out []Row
	last := len(path) - 1
	for i := range count {
		r := Row{Line: row.Line, Problem: row.Problem, Fields: map[string]string{}}
		for k, v := range row.Fields {
			r.Fields[k] = v
		}
		index := "[" + strconv.Itoa(i) + "]"
		r.Fields["address"] = id + "|" + index
		out = append(out, s.named(r, append(path[:last:last], path[last]+index)))
	}
	return out
}

func (s *nodeSet) named(row Row, path []string) Row {
	row.Fields["path"] = tag.FitPath(path)
	if was := strings.Join(path, "."); was != row.Fields["path"] {
		row.Was = was
	}
	return row
}

// typeOf resolves a data type through aliases and, for types of the file's
// own, through what they are derived from.
func (s *nodeSet) typeOf(ref string) (string, bool) {
	for depth := 0; depth < maxDepth; depth++ {
		if a := s.alias[ref]; a != "" {
			ref = a
		}
		if t, ok := builtin[strings.ToLower(strings.TrimPrefix(ref, "i="))]; ok && !strings.HasPrefix(ref, "ns=") {
			return t, true
		}
		n := s.nodes[ref]
		if n == nil {
			return ref, false
		}
		if n.child("Definition") != nil && n.child("Definition").child("Field") != nil &&
			n.child("Definition").child("Field").attrs["Value"] != "" {
			return "DINT", true // an enumeration (IEC 62541-3, 8.14)
		}
		up := ""
		if refs := n.child("References"); refs != nil {
			for _, r := range refs.kids {
				if t := r.attrs["ReferenceType"]; (t == "HasSubtype" || s.alias[t] == "i=45" || t == "i=45") && r.attrs["IsForward"] == "false" {
					up = strings.TrimSpace(r.text.String())
				}
			}
		}
		if up == "" {
			return ref, false
		}
		ref = up
	}
	return ref, false
}
