package opcua

import (
	"context"
	"reflect"
	"strings"
	"sync"

	"github.com/gopcua/opcua/id"
	"github.com/gopcua/opcua/ua"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// A structure's value comes as bytes whose meaning its data type tells
// (IEC 62541-3, 8.48; 62541-6, 5.2.6). The definition is read from the server
// once; the members are then found in the bytes of each value.

// rawBody keeps the bytes of a structure that the library does not know.
type rawBody struct{ bytes []byte }

// Decode keeps the bytes.
func (r *rawBody) Decode(b []byte) (int, error) {
	r.bytes = append([]byte(nil), b...)
	return len(b), nil
}

// Encode gives them back.
func (r *rawBody) Encode() ([]byte, error) { return r.bytes, nil }

var (
	registerMu sync.Mutex
	registered = map[string]bool{}
)

// keepBytes lets the library keep the bytes of an encoding that it does not
// know; it has one register for all servers.
func keepBytes(encoding *ua.NodeID) {
	registerMu.Lock()
	defer registerMu.Unlock()
	if encoding.Namespace() == 0 || registered[encoding.String()] {
		return
	}
	registered[encoding.String()] = true
	ua.RegisterExtensionObject(encoding, new(rawBody))
}

// nodeType is what a variable holds.
type nodeType struct {
	builtin   ua.TypeID
	structure *structure
	rank      int32
}

// structure is a data type's definition.
type structure struct {
	encoding *ua.NodeID
	fields   []field
	optional bool // a mask in front says which optional fields are there
}

type field struct {
	name     string
	builtin  ua.TypeID
	nested   *structure
	array    bool
	optional bool
}

const maxNesting = 16

// learn reads what a variable holds, so that its members are found later.
func (d *Driver) learn(ctx context.Context, n *ua.NodeID) {
	_, _ = d.typeOf(ctx, n) // a type that cannot be read shows as a refused value
}

// typeOf reads a variable's data type, once a connection.
func (d *Driver) typeOf(ctx context.Context, n *ua.NodeID) (nodeType, error) {
	key := n.String()
	d.mu.Lock()
	t, known := d.kinds[key]
	d.mu.Unlock()
	if known {
		return t, nil
	}
	v, err := d.read(ctx, n, ua.AttributeIDDataType)
	if err != nil {
		return t, err
	}
	typ, ok := nodeOf(v)
	if !ok {
		return t, say.Errorf("%s: %s", n, statusText(v.Status))
	}
	if t.builtin, t.structure, err = d.dataType(ctx, typ, 0); err != nil {
		return t, err
	}
	if rank, err := d.read(ctx, n, ua.AttributeIDValueRank); err == nil && rank.Value != nil {
		t.rank, _ = rank.Value.Value().(int32)
	}
	d.mu.Lock()
	d.kinds[key] = t
	d.mu.Unlock()
	return t, nil
}

func nodeOf(v *ua.DataValue) (*ua.NodeID, bool) {
	if v.Value == nil {
		return nil, false
	}
	switch n := v.Value.Value().(type) {
	case *ua.NodeID:
		return n, n != nil
	case *ua.ExpandedNodeID: // as some servers answer
		return n.NodeID, n.NodeID != nil
	}
	return nil, false
}

// dataType resolves a data type to a built-in one, going up to what it is
// derived from, or to a structure.
func (d *Driver) dataType(ctx context.Context, typ *ua.NodeID, depth int) (ua.TypeID, *structure, error) {
	for hops := 0; hops < maxNesting; hops++ {
		if typ.Namespace() == 0 {
			switch n := typ.IntID(); {
			case n == id.Enumeration:
				return ua.TypeIDInt32, nil, nil
			case n == id.Structure:
				return ua.TypeIDExtensionObject, nil, nil
			case n == id.Number, n == id.Integer, n == id.UInteger:
				return ua.TypeIDDouble, nil, nil
			case n <= 25:
				return ua.TypeID(n), nil, nil
			}
		}
		if s, err := d.structureOf(ctx, typ, depth); err != nil || s != nil {
			return ua.TypeIDExtensionObject, s, err
		}
		up, err := d.supertype(ctx, typ)
		if err != nil {
			return 0, nil, err
		}
		typ = up
	}
	return 0, nil, say.Errorf("the data type %s is derived too often", typ)
}

// supertype is what a data type is derived from.
func (d *Driver) supertype(ctx context.Context, typ *ua.NodeID) (*ua.NodeID, error) {
	refs, err := d.references(ctx, typ, ua.BrowseDirectionInverse, id.HasSubtype, 0)
	if err != nil {
		return nil, err
	}
	if len(refs) == 0 {
		return nil, say.Errorf("the data type %s is derived from nothing known", typ)
	}
	return refs[0].NodeID.NodeID, nil
}

// structureOf reads a structure's definition; nil for a type that is none.
func (d *Driver) structureOf(ctx context.Context, typ *ua.NodeID, depth int) (*structure, error) {
	d.mu.Lock()
	s, known := d.types[typ.String()]
	d.mu.Unlock()
	if known {
		return s, nil
	}
	if depth > maxNesting {
		return nil, say.Errorf("the data type %s is nested too deep", typ)
	}
	v, err := d.read(ctx, typ, ua.AttributeIDDataTypeDefinition)
	if err != nil || v.Value == nil {
		return nil, nil // servers before 1.04 have no definition to read
	}
	object, ok := v.Value.Value().(*ua.ExtensionObject)
	if !ok {
		return nil, nil
	}
	def, ok := object.Value.(*ua.StructureDefinition)
	if !ok {
		return nil, nil
	}
	if def.StructureType == ua.StructureTypeUnion {
		return nil, say.Errorf("the data type %s is a union, which is not unfolded", typ)
	}
	s = &structure{encoding: def.DefaultEncodingID, optional: def.StructureType == ua.StructureTypeStructureWithOptionalFields}
	for _, f := range def.Fields {
		out := field{name: f.Name, array: f.ValueRank >= 1, optional: f.IsOptional}
		if out.builtin, out.nested, err = d.dataType(ctx, f.DataType, depth+1); err != nil {
			return nil, err
		}
		s.fields = append(s.fields, out)
	}
	if s.encoding != nil {
		keepBytes(s.encoding)
	}
	d.mu.Lock()
	d.types[typ.String()] = s
	d.mu.Unlock()
	return s, nil
}

// member finds a member of a value; nil when it has none of that name.
func (d *Driver) member(content any, way []device.Member) any {
	for i, m := range way {
		if m.Name == "" {
			list := reflect.ValueOf(content)
			if list.Kind() != reflect.Slice || m.Index >= list.Len() {
				return nil
			}
			content = list.Index(m.Index).Interface()
			continue
		}
		raw, s := d.body(content)
		if s == nil {
			return nil
		}
		found, _, err := s.find(raw, way[i:])
		if err != nil {
			return nil
		}
		return found
	}
	return content
}

// body returns a structure's bytes and definition.
func (d *Driver) body(content any) ([]byte, *structure) {
	object, ok := content.(*ua.ExtensionObject)
	if !ok {
		return nil, nil
	}
	raw, ok := object.Value.(*rawBody)
	if !ok {
		return nil, nil
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, s := range d.types {
		if s != nil && s.encoding != nil && object.TypeID != nil && s.encoding.String() == object.TypeID.NodeID.String() {
			return raw.bytes, s
		}
	}
	return nil, nil
}

// span is where a member's bytes lie.
type span struct {
	from, to int
	builtin  ua.TypeID
}

var (
	errNoMember = say.New("there is no such member")
	errShort    = say.New("the structure's bytes are not what its definition says")
)

// find walks through the bytes to a member.
func (s *structure) find(b []byte, way []device.Member) (any, span, error) {
	w := &walker{buf: ua.NewBuffer(b), all: b}
	v, at, err := w.structure(s, way, 0)
	if err == nil && w.buf.Error() != nil {
		err = w.buf.Error()
	}
	return v, at, err
}

type walker struct {
	buf *ua.Buffer
	all []byte
}

// structure reads over a structure's fields until the wanted one; a nil way
// reads over all of them.
func (w *walker) structure(s *structure, way []device.Member, depth int) (any, span, error) {
	if depth > maxNesting {
		return nil, span{}, errNoMember
	}
	mask := ^uint32(0)
	if s.optional {
		mask = w.buf.ReadUint32()
	}
	bit := 0
	for _, f := range s.fields {
		if f.optional {
			there := mask&(1<<bit) != 0
			if bit++; !there {
				continue
			}
		}
		var rest []device.Member
		wanted := len(way) > 0 && strings.EqualFold(way[0].Name, f.name)
		if wanted {
			rest = way[1:]
		}
		v, at, err := w.field(f, wanted, rest, depth)
		if wanted || err != nil || w.buf.Error() != nil {
			return v, at, err
		}
	}
	if len(way) > 0 {
		return nil, span{}, errNoMember
	}
	return nil, span{}, nil
}

func (w *walker) field(f field, wanted bool, way []device.Member, depth int) (any, span, error) {
	if !f.array {
		return w.one(f, wanted, way, depth)
	}
	n := int(w.buf.ReadInt32())
	if n > w.buf.Len() {
		return nil, span{}, errShort
	}
	index := -1
	if wanted {
		if len(way) == 0 || way[0].Name != "" {
			return nil, span{}, errNoMember
		}
		index, way = way[0].Index, way[1:]
	}
	for i := 0; i < n && w.buf.Error() == nil; i++ {
		v, at, err := w.one(f, i == index, way, depth)
		if i == index || err != nil {
			return v, at, err
		}
	}
	if wanted {
		return nil, span{}, errNoMember
	}
	return nil, span{}, nil
}

func (w *walker) one(f field, wanted bool, way []device.Member, depth int) (any, span, error) {
	if f.nested != nil {
		if !wanted {
			way = nil
		}
		return w.structure(f.nested, way, depth+1)
	}
	from := w.buf.Pos()
	v, err := readBuiltin(w.buf, f.builtin)
	if wanted && len(way) > 0 {
		err = errNoMember
	}
	return v, span{from, w.buf.Pos(), f.builtin}, err
}

// readBuiltin reads a value of a built-in type. The library panics on some
// variants that say a negative length; that is an error of the bytes.
func readBuiltin(b *ua.Buffer, t ua.TypeID) (v any, err error) {
	defer func() {
		if recover() != nil {
			v, err = nil, errShort
		}
	}()
	read := func(v any) any { b.ReadStruct(v); return v }
	switch t {
	case ua.TypeIDBoolean:
		return b.ReadBool(), nil
	case ua.TypeIDSByte:
		return b.ReadInt8(), nil
	case ua.TypeIDByte:
		return b.ReadByte(), nil
	case ua.TypeIDInt16:
		return b.ReadInt16(), nil
	case ua.TypeIDUint16:
		return b.ReadUint16(), nil
	case ua.TypeIDInt32:
		return b.ReadInt32(), nil
	case ua.TypeIDUint32, ua.TypeIDStatusCode:
		return b.ReadUint32(), nil
	case ua.TypeIDInt64:
		return b.ReadInt64(), nil
	case ua.TypeIDUint64:
		return b.ReadUint64(), nil
	case ua.TypeIDFloat:
		return b.ReadFloat32(), nil
	case ua.TypeIDDouble:
		return b.ReadFloat64(), nil
	case ua.TypeIDString:
		return b.ReadString(), nil
	case ua.TypeIDDateTime:
		return b.ReadTime(), nil
	case ua.TypeIDByteString, ua.TypeIDXMLElement:
		return b.ReadBytes(), nil
	case ua.TypeIDGUID:
		return read(new(ua.GUID)), nil
	case ua.TypeIDNodeID:
		return read(new(ua.NodeID)), nil
	case ua.TypeIDExpandedNodeID:
		return read(new(ua.ExpandedNodeID)), nil
	case ua.TypeIDQualifiedName:
		return read(new(ua.QualifiedName)), nil
	case ua.TypeIDLocalizedText:
		return read(new(ua.LocalizedText)), nil
	case ua.TypeIDVariant:
		return read(new(ua.Variant)), nil
	case ua.TypeIDDataValue:
		return read(new(ua.DataValue)), nil
	case ua.TypeIDExtensionObject:
		return read(new(ua.ExtensionObject)), nil
	}
	return nil, say.Errorf("fields of type %s cannot be read", t)
}

// patched reads a structure, changes one member and returns the whole.
func (d *Driver) patched(ctx context.Context, n node, t nodeType, v value.Value) (*ua.Variant, error) {
	if t.structure == nil || t.rank >= 0 || n.members[0].Name == "" {
		return nil, say.New("of arrays of structures and nested arrays no part is written alone")
	}
	now, err := d.read(ctx, n.id, ua.AttributeIDValue)
	if err != nil {
		return nil, err
	}
	if now.Value == nil {
		return nil, say.New("the structure could not be read first")
	}
	raw, s := d.body(now.Value.Value())
	if s == nil {
		return nil, say.New("the structure could not be read first")
	}
	_, at, err := s.find(raw, n.members)
	if err != nil {
		return nil, err
	}
	x, err := scalar(v, at.builtin)
	if err != nil {
		return nil, err
	}
	b := ua.NewBuffer(nil)
	if l, ok := x.(*ua.LocalizedText); ok {
		b.WriteStruct(l)
	} else {
		writeBuiltin(b, x)
	}
	body := append(append(append([]byte(nil), raw[:at.from]...), b.Bytes()...), raw[at.to:]...)
	object := now.Value.Value().(*ua.ExtensionObject)
	return ua.NewVariant(&ua.ExtensionObject{EncodingMask: ua.ExtensionObjectBinary, TypeID: object.TypeID, Value: &rawBody{body}})
}

func writeBuiltin(b *ua.Buffer, x any) {
	switch x := x.(type) {
	case bool:
		b.WriteBool(x)
	case int8:
		b.WriteInt8(x)
	case uint8:
		b.WriteUint8(x)
	case int16:
		b.WriteInt16(x)
	case uint16:
		b.WriteUint16(x)
	case int32:
		b.WriteInt32(x)
	case uint32:
		b.WriteUint32(x)
	case int64:
		b.WriteInt64(x)
	case uint64:
		b.WriteUint64(x)
	case float32:
		b.WriteFloat32(x)
	case float64:
		b.WriteFloat64(x)
	case string:
		b.WriteString(x)
	}
}
