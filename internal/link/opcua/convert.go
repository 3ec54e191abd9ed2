package opcua

import (
	"fmt"
	"math"
	"reflect"
	"strconv"
	"time"

	"github.com/gopcua/opcua/ua"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// node is a parsed address.
type node struct {
	id      *ua.NodeID
	text    string // of the node id alone
	members []device.Member
}

func parse(address string) (node, error) {
	n, err := device.ParseNode(address)
	if err != nil {
		return node{}, err
	}
	id, err := ua.ParseNodeID(n.ID)
	if err != nil {
		return node{}, err
	}
	out := node{id: id, text: n.ID}
	if n.Path != "" {
		out.members, err = device.SplitMembers(n.Path)
	}
	return out, err
}

// quality carries a status code (IEC 62541-8, 6.3; 62541-4, 7.39).
func quality(s ua.StatusCode) value.Quality {
	switch uint32(s) >> 30 {
	case 0:
		return value.Good
	case 1:
		return value.UncertainDevice
	}
	switch s {
	case ua.StatusBadNodeIDUnknown, ua.StatusBadNodeIDInvalid, ua.StatusBadNotReadable, ua.StatusBadUserAccessDenied,
		ua.StatusBadAttributeIDInvalid, ua.StatusBadIndexRangeNoData:
		return value.BadRefused
	case ua.StatusBadWaitingForInitialData:
		return value.BadWaiting
	case ua.StatusBadNotConnected, ua.StatusBadNoCommunication, ua.StatusBadCommunicationError:
		return value.BadGone
	case ua.StatusBadOutOfRange:
		return value.BadRange
	}
	return value.BadReported
}

// statusText puts a status code into words.
func statusText(s ua.StatusCode) string {
	if d, ok := ua.StatusCodes[s]; ok {
		if d.Text != "" {
			return d.Text
		}
		return d.Name
	}
	return fmt.Sprintf("status 0x%08X", uint32(s))
}

// convert turns what the server sent into a value of the tag's type.
func (d *Driver) convert(v *ua.DataValue, n node, t value.Type) value.Value {
	q := value.Good
	if v.EncodingMask&ua.DataValueStatusCode != 0 {
		q = quality(v.Status)
	}
	var at time.Time
	switch {
	case v.EncodingMask&ua.DataValueSourceTimestamp != 0:
		at = v.SourceTimestamp
	case v.EncodingMask&ua.DataValueServerTimestamp != 0:
		at = v.ServerTimestamp
	}
	if q.IsBad() || v.Value == nil {
		if !q.IsBad() {
			q = value.BadReported
		}
		return stamped(value.Bad(t.Kind, q), at)
	}
	content := v.Value.Value()
	if len(n.members) > 0 {
		content = d.member(content, n.members)
	}
	out := plain(content, t)
	if !out.Quality.IsBad() {
		out.Quality = q
	}
	return stamped(out, at)
}

func stamped(v value.Value, at time.Time) value.Value {
	if at.Year() < 1990 {
		return v
	}
	return v.At(at)
}

// plain converts one scalar. A number that the tag's type cannot hold is bad,
// never wrapped.
func plain(content any, t value.Type) value.Value {
	bad := value.Bad(t.Kind, value.BadRefused)
	if t.Kind == value.STRING {
		s, ok := text(content)
		if !ok {
			return bad
		}
		if len(s) > t.Len {
			return value.Bad(t.Kind, value.BadRange)
		}
		return value.Str(s)
	}
	var out value.Value
	var err error
	switch c := content.(type) {
	case bool:
		if t.Kind != value.BOOL {
			return bad
		}
		return value.Bool(c)
	case int8, int16, int32, int64, uint8, uint16, uint32, uint64:
		if t.Kind == value.BOOL {
			return bad
		}
		out, err = value.Parse(t, fmt.Sprint(c))
	case float32, float64:
		if t.Kind == value.BOOL {
			return bad
		}
		out, err = value.FromFloat(t.Kind, reflect.ValueOf(c).Float())
	default:
		return bad
	}
	if err != nil {
		return value.Bad(t.Kind, value.BadRange)
	}
	return out
}

func text(content any) (string, bool) {
	switch c := content.(type) {
	case string:
		return c, true
	case *ua.LocalizedText:
		return c.Text, true
	case *ua.QualifiedName:
		return c.Name, true
	case *ua.GUID:
		return c.String(), true
	case *ua.NodeID:
		return c.String(), true
	case time.Time:
		return c.Local().Format("2006-01-02 15:04:05"), true
	case bool, int8, int16, int32, int64, uint8, uint16, uint32, uint64:
		return fmt.Sprint(c), true
	case float32:
		return strconv.FormatFloat(float64(c), 'g', -1, 32), true
	case float64:
		return strconv.FormatFloat(c, 'g', -1, 64), true
	}
	return "", false
}

// scalar is a value in the Go type that a built-in type has.
func scalar(v value.Value, typ ua.TypeID) (any, error) {
	whole := func(k value.Kind) (value.Value, error) {
		if v.Kind == k || v.Kind.IsInteger() {
			return value.Parse(value.Type{Kind: k}, v.Text())
		}
		return value.FromFloat(k, v.Float())
	}
	var err error
	var w value.Value
	switch typ {
	case ua.TypeIDBoolean:
		return v.Bool(), nil
	case ua.TypeIDSByte:
		w, err = whole(value.SINT)
		return int8(w.Int()), err
	case ua.TypeIDByte:
		w, err = whole(value.USINT)
		return uint8(w.Int()), err
	case ua.TypeIDInt16:
		w, err = whole(value.INT)
		return int16(w.Int()), err
	case ua.TypeIDUint16:
		w, err = whole(value.UINT)
		return uint16(w.Int()), err
	case ua.TypeIDInt32:
		w, err = whole(value.DINT)
		return int32(w.Int()), err
	case ua.TypeIDUint32:
		w, err = whole(value.UDINT)
		return uint32(w.Int()), err
	case ua.TypeIDInt64:
		w, err = whole(value.LINT)
		return w.Int(), err
	case ua.TypeIDUint64:
		w, err = whole(value.ULINT)
		return w.Uint(), err
	case ua.TypeIDFloat:
		if math.Abs(v.Float()) > math.MaxFloat32 {
			return nil, say.Errorf("%v is too large for the server's Float", v.Float())
		}
		return float32(v.Float()), nil
	case ua.TypeIDDouble:
		return v.Float(), nil
	case ua.TypeIDString:
		return v.Str(), nil
	case ua.TypeIDLocalizedText:
		return &ua.LocalizedText{EncodingMask: ua.LocalizedTextText, Text: v.Str()}, nil
	}
	return nil, say.Errorf("values of the server's type %s are not written", typ)
}

func variant(v value.Value, typ ua.TypeID) (*ua.Variant, error) {
	s, err := scalar(v, typ)
	if err != nil {
		return nil, err
	}
	return ua.NewVariant(s)
}

// element is a value as an array of one, which is how a part of an array is
// written.
func element(v value.Value, typ ua.TypeID) (*ua.Variant, error) {
	s, err := scalar(v, typ)
	if err != nil {
		return nil, err
	}
	switch x := s.(type) {
	case bool:
		return ua.NewVariant([]bool{x})
	case int8:
		return ua.NewVariant([]int8{x})
	case uint8:
		return ua.NewVariant([]byte{x})
	case int16:
		return ua.NewVariant([]int16{x})
	case uint16:
		return ua.NewVariant([]uint16{x})
	case int32:
		return ua.NewVariant([]int32{x})
	case uint32:
		return ua.NewVariant([]uint32{x})
	case int64:
		return ua.NewVariant([]int64{x})
	case uint64:
		return ua.NewVariant([]uint64{x})
	case float32:
		return ua.NewVariant([]float32{x})
	case float64:
		return ua.NewVariant([]float64{x})
	case string:
		return ua.NewVariant([]string{x})
	}
	return nil, say.Errorf("elements of the server's type %s are not written", typ)
}
