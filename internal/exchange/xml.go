package exchange

import (
	"bytes"
	"encoding/xml"
	"io"
	"readyrail/internal/core/say"
	"strings"
)

// XML of either kind. Names of elements are compared without their namespace
// prefix, since each tool writes its own.

// maxDepth bounds the nesting of elements and of types.
const maxDepth = 64

// node is an element of the document.
type node struct {
	name  string
	attrs map[string]string
	text  strings.Builder
	kids  []*node
	parts []*node // kids and, without a name, the texts between them
	line  int
}

func (n *node) child(name string) *node {
	for _, k := range n.kids {
		if k.name == name {
			return k
		}
	}
	return nil
}

// all visits every element with a name, below n.
func (n *node) all(name string, visit func(*node)) {
	for _, k := range n.kids {
		if k.name == name {
			visit(k)
		}
		k.all(name, visit)
	}
}

// deepText is all text below an element, as documentation has it in XHTML.
func (n *node) deepText() string {
	if n.name == "" {
		return n.text.String()
	}
	var b strings.Builder
	for _, k := range n.parts {
		b.WriteString(k.deepText())
		b.WriteByte(' ')
	}
	return strings.Join(strings.Fields(b.String()), " ")
}

// readXML parses a document. Directives, and with them entities of the
// document's own, are refused: an entity can unfold to any size.
func readXML(data []byte, skip func(name string) bool) (*node, error) {
	if len(data) > MaxListBytes {
		return nil, say.Errorf("the file has %d MB; %d MB is the most", len(data)>>20, MaxListBytes>>20)
	}
	d := xml.NewDecoder(bytes.NewReader(data))
	d.CharsetReader = charset
	root := &node{}
	stack := []*node{root}
	nodes := 0
	for {
		tok, err := d.RawToken()
		if err == io.EOF {
			break
		}
		if err != nil {
			line, _ := d.InputPos()
			return nil, say.Errorf("line %d: this is not well-formed XML: %v", line, strings.TrimPrefix(err.Error(), "XML syntax error on "))
		}
		line, _ := d.InputPos()
		switch t := tok.(type) {
		case xml.Directive:
			return nil, say.Errorf("line %d: a document type or entity is not accepted", line)
		case xml.StartElement:
			if nodes++; nodes > 4_000_000 {
				return nil, say.New("the file has more than four million elements: split it")
			}
			if len(stack) > maxDepth {
				return nil, say.Errorf("line %d: elements are nested deeper than %d", line, maxDepth)
			}
			n := &node{name: t.Name.Local, line: line}
			for _, a := range t.Attr {
				if n.attrs == nil {
					n.attrs = map[string]string{}
				}
				n.attrs[a.Name.Local] = a.Value
			}
			up := stack[len(stack)-1]
			if !skip(n.name) && up != nil {
				up.kids, up.parts = append(up.kids, n), append(up.parts, n)
				stack = append(stack, n)
			} else {
				stack = append(stack, nil) // and with it all that lies in it
			}
		case xml.EndElement:
			top := stack[len(stack)-1]
			if len(stack) == 1 || top != nil && top.name != t.Name.Local {
				return nil, say.Errorf("line %d: this is not well-formed XML: </%s> closes nothing", line, t.Name.Local)
			}
			stack = stack[:len(stack)-1]
		case xml.CharData:
			if top := stack[len(stack)-1]; top != nil {
				top.text.Write(t)
				part := &node{}
				part.text.Write(t)
				top.parts = append(top.parts, part)
			}
		}
	}
	if len(stack) != 1 || len(root.kids) != 1 {
		return nil, say.New("this is not well-formed XML: it ends too early")
	}
	return root.kids[0], nil
}

// charset reads the encodings that tools write beside UTF-8.
func charset(label string, in io.Reader) (io.Reader, error) {
	switch strings.ToLower(label) {
	case "utf-8", "us-ascii":
		return in, nil
	case "iso-8859-1", "windows-1252", "latin1":
		b, err := io.ReadAll(in)
		out := make([]rune, len(b))
		for i, c := range b {
			out[i] = rune(c)
		}
		return strings.NewReader(string(out)), err
	}
	return nil, say.Errorf("the encoding %s is not known: save it as UTF-8", label)
}
