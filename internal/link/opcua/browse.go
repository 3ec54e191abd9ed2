package opcua

import (
	"context"
	"fmt"
	"reflect"
	"strings"
	"time"

	"github.com/gopcua/opcua/id"
	"github.com/gopcua/opcua/ua"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// Item is a place in a server's address space.
type Item struct {
	Address  string `json:"address"`
	Name     string `json:"name"`
	Variable bool   `json:"variable"`
	Type     string `json:"type,omitempty" doc:"as a tag's type; empty where a tag cannot have it"`
	Theirs   string `json:"theirs,omitempty" doc:"the server's own name of the type"`
	Writable bool   `json:"writable,omitempty"`
	Value    string `json:"value,omitempty"`
	More     bool   `json:"more" doc:"something may lie in it"`
}

// maxItems bounds what one look shows.
const maxItems = 2000

// Browse lists what lies in a node; the empty address is the Objects folder.
// Elements of an array and members of a structure lie in their variable.
func Browse(ctx context.Context, drv link.Driver, address string) ([]Item, error) {
	list := []Item{}
	return list, link.Ask(ctx, drv, browses, address, &list)
}

func (d *Driver) browse(ctx context.Context, address string) ([]Item, error) {
	n := node{id: ua.NewNumericNodeID(0, id.ObjectsFolder)}
	if address != "" {
		var err error
		if n, err = parse(address); err != nil {
			return nil, err
		}
	}
	out := []Item{}
	if len(n.members) == 0 {
		refs, err := d.references(ctx, n.id, ua.BrowseDirectionForward, id.HierarchicalReferences, ua.NodeClassObject|ua.NodeClassVariable)
		if err != nil {
			return nil, err
		}
		for _, r := range refs[:min(len(refs), maxItems)] {
			if r.NodeID == nil || r.NodeID.NodeID == nil {
				continue
			}
			it := Item{Address: r.NodeID.NodeID.String(), Name: r.BrowseName.Name, Variable: r.NodeClass == ua.NodeClassVariable,
				More: r.NodeClass == ua.NodeClassObject}
			if it.Variable {
				d.describe(ctx, &it, r.NodeID.NodeID)
			}
			out = append(out, it)
		}
	}
	if address != "" {
		inside, err := d.inside(ctx, n, address)
		if err != nil {
			return nil, err
		}
		out = append(out, inside...)
	}
	return out, nil
}

// describe fills in what a variable holds.
func (d *Driver) describe(ctx context.Context, it *Item, n *ua.NodeID) {
	t, err := d.typeOf(ctx, n)
	if err != nil {
		it.Theirs = err.Error()
		return
	}
	it.Type, it.Theirs = tagType(t.builtin), standardName(t.builtin)
	it.More = t.structure != nil || t.rank >= 0
	if it.More {
		it.Type = ""
	}
	if level, err := d.read(ctx, n, ua.AttributeIDUserAccessLevel); err == nil && level.Value != nil {
		if b, ok := level.Value.Value().(byte); ok {
			it.Writable = b&2 != 0
		}
	}
	if v, err := d.read(ctx, n, ua.AttributeIDValue); err == nil && v.Value != nil && !it.More {
		it.Value, _ = text(v.Value.Value())
		it.Value = it.Value[:min(len(it.Value), 80)]
	}
}

// inside lists the elements of an array and the members of a structure.
func (d *Driver) inside(ctx context.Context, n node, address string) ([]Item, error) {
	v, err := d.read(ctx, n.id, ua.AttributeIDNodeClass)
	if err != nil || v.Value == nil {
		return nil, err
	}
	if class, ok := v.Value.Value().(int32); !ok || ua.NodeClass(class) != ua.NodeClassVariable {
		return nil, nil
	}
	t, err := d.typeOf(ctx, n.id)
	if err != nil {
		return nil, nil
	}
	v, err = d.read(ctx, n.id, ua.AttributeIDValue)
	if err != nil || v.Value == nil {
		return nil, err
	}
	content := v.Value.Value()
	if len(n.members) > 0 {
		content = d.member(content, n.members)
	}
	separator := "|"
	if len(n.members) > 0 {
		separator = ""
	}
	out := []Item{}
	if list := reflect.ValueOf(content); list.Kind() == reflect.Slice && t.builtin != ua.TypeIDByteString {
		for i := range min(list.Len(), maxItems) {
			index := fmt.Sprintf("[%d]", i)
			it := Item{Address: address + separator + index, Name: index, Variable: true, Type: tagType(t.builtin),
				Theirs: standardName(t.builtin), More: t.structure != nil}
			if it.More {
				it.Type = ""
			}
			it.Value, _ = text(list.Index(i).Interface())
			out = append(out, it)
		}
		return out, nil
	}
	s := t.structure
	if len(n.members) > 0 {
		s = s.below(n.members)
	}
	if s == nil {
		return out, nil
	}
	if separator == "" {
		separator = "."
	}
	for _, f := range s.fields {
		it := Item{Address: address + separator + f.name, Name: f.name, Variable: true, Type: tagType(f.builtin),
			Theirs: standardName(f.builtin), More: f.nested != nil || f.array}
		if it.More {
			it.Type = ""
		} else if raw, top := d.body(content); top != nil {
			if found, _, err := top.find(raw, []device.Member{{Name: f.name}}); err == nil {
				it.Value, _ = text(found)
			}
		}
		out = append(out, it)
	}
	return out, nil
}

// below is the structure that a way into this one leads to.
func (s *structure) below(way []device.Member) *structure {
	for _, m := range way {
		if s == nil || m.Name == "" {
			continue
		}
		next := (*structure)(nil)
		for _, f := range s.fields {
			if f.name == m.Name {
				next = f.nested
			}
		}
		s = next
	}
	return s
}

// standardName is the name of a built-in type (IEC 62541-6, 5.1.2).
func standardName(t ua.TypeID) string { return strings.TrimPrefix(t.String(), "TypeID") }

func tagType(t ua.TypeID) string {
	k := map[ua.TypeID]value.Kind{ua.TypeIDBoolean: value.BOOL, ua.TypeIDSByte: value.SINT, ua.TypeIDByte: value.USINT,
		ua.TypeIDInt16: value.INT, ua.TypeIDUint16: value.UINT,
		ua.TypeIDInt32: value.DINT, ua.TypeIDUint32: value.UDINT, ua.TypeIDInt64: value.LINT, ua.TypeIDUint64: value.ULINT,
		ua.TypeIDFloat: value.REAL, ua.TypeIDDouble: value.LREAL}[t]
	if k != value.None {
		return k.String()
	}
	switch t {
	case ua.TypeIDString, ua.TypeIDLocalizedText, ua.TypeIDDateTime, ua.TypeIDGUID, ua.TypeIDQualifiedName:
		return "STRING(80)"
	}
	return ""
}

// references follows references of a type from a node.
func (d *Driver) references(ctx context.Context, n *ua.NodeID, way ua.BrowseDirection, typ uint32,
	classes ua.NodeClass) ([]*ua.ReferenceDescription, error) {
	var out []*ua.ReferenceDescription
	err := d.timed(ctx, func(ctx context.Context) error {
		res, err := d.client.Browse(ctx, &ua.BrowseRequest{View: &ua.ViewDescription{ViewID: ua.NewTwoByteNodeID(0), Timestamp: time.Time{}},
			NodesToBrowse: []*ua.BrowseDescription{{
				NodeID: n, BrowseDirection: way, ReferenceTypeID: ua.NewNumericNodeID(0, typ), IncludeSubtypes: true, NodeClassMask: uint32(classes),
				ResultMask: uint32(ua.BrowseResultMaskAll)}}})
		for err == nil && len(res.Results) == 1 {
			r := res.Results[0]
			if r.StatusCode != ua.StatusOK {
				return say.Errorf("%s: %s", n, statusText(r.StatusCode))
			}
			out = append(out, r.References...)
			if len(r.ContinuationPoint) == 0 || len(out) > maxItems {
				return nil
			}
			var next *ua.BrowseNextResponse
			if next, err = d.client.BrowseNext(ctx, &ua.BrowseNextRequest{ContinuationPoints: [][]byte{r.ContinuationPoint}}); err == nil {
				res.Results = next.Results
			}
		}
		return err
	})
	seen := map[string]bool{}
	list := out[:0]
	for _, r := range out {
		if key := r.NodeID.NodeID.String(); !seen[key] {
			seen[key] = true
			list = append(list, r)
		}
	}
	return list, err
}
