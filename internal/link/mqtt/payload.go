package mqtt

import (
	"bytes"
	"encoding/json"
	"slices"
	"sort"
	"strconv"
	"strings"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// decode finds a value in a payload: the payload itself, or a member of its
// JSON.
func decode(payload []byte, path string, t value.Type) value.Value {
	bad := value.Bad(t.Kind, value.BadReported)
	if path == "" {
		return scalar(strings.TrimSpace(string(payload)), t)
	}
	d := json.NewDecoder(bytes.NewReader(payload))
	d.UseNumber()
	var doc any
	if d.Decode(&doc) != nil {
		return bad
	}
	way, err := device.SplitMembers(path)
	if err != nil {
		return bad
	}
	for _, m := range way {
		switch x := doc.(type) {
		case map[string]any:
			next, ok := x[m.Name]
			if !ok || m.Name == "" {
				return bad
			}
			doc = next
		case []any:
			if m.Name != "" || m.Index >= len(x) {
				return bad
			}
			doc = x[m.Index]
		default:
			return bad
		}
	}
	switch x := doc.(type) {
	case json.Number:
		return scalar(x.String(), t)
	case string:
		return scalar(x, t)
	case bool:
		return scalar(strconv.FormatBool(x), t)
	}
	return bad
}

// scalar reads a text as a type. A number that the type cannot hold is bad,
// never wrapped; a fraction for an integer is rounded.
func scalar(s string, t value.Type) value.Value {
	if t.Kind.IsInteger() {
		if v, err := value.Parse(t, s); err == nil {
			return v
		}
		f, err := strconv.ParseFloat(s, 64)
		if err != nil {
			return value.Bad(t.Kind, value.BadReported)
		}
		v, err := value.FromFloat(t.Kind, f)
		if err != nil {
			return value.Bad(t.Kind, value.BadRange)
		}
		return v
	}
	v, err := value.Parse(t, s)
	if err != nil {
		return value.Bad(t.Kind, value.BadRange)
	}
	return v
}

// encode makes the payload of a value.
func encode(v value.Value, path string) ([]byte, error) {
	var plain any = json.RawMessage(v.Text())
	if v.Kind == value.STRING {
		if path == "" {
			return []byte(v.Str()), nil
		}
		plain = v.Str()
	}
	if path == "" {
		return []byte(v.Text()), nil
	}
	way, err := device.SplitMembers(path)
	if err != nil {
		return nil, err
	}
	for _, m := range slices.Backward(way) {
		if m.Name == "" {
			return nil, say.Errorf("an element of an array, %s, is not published alone: give a write address of its own", path)
		}
		plain = map[string]any{m.Name: plain}
	}
	return json.Marshal(plain)
}

// maxMembers bounds what is listed of one payload.
const maxMembers = 200

// members lists the scalars of a JSON payload with the types a tag would have.
func members(payload []byte) []PayloadMember {
	out := []PayloadMember{}
	d := json.NewDecoder(bytes.NewReader(payload))
	d.UseNumber()
	var doc any
	if d.Decode(&doc) != nil {
		return append(out, PayloadMember{"", "STRING(80)", string(payload[:min(len(payload), 80)])})
	}
	walk(doc, "", &out)
	sort.Slice(out, func(i, j int) bool { return out[i].Path < out[j].Path })
	return out
}

func walk(doc any, path string, out *[]PayloadMember) {
	if len(*out) >= maxMembers {
		return
	}
	switch x := doc.(type) {
	case map[string]any:
		for name, v := range x {
			if strings.ContainsAny(name, ".[]|") || name == "" {
				continue // such a name has no address
			}
			next := name
			if path != "" {
				next = path + "." + name
			}
			walk(v, next, out)
		}
	case []any:
		for i, v := range x {
			walk(v, path+"["+strconv.Itoa(i)+"]", out)
		}
	case json.Number:
		typ := "LREAL"
		if _, err := strconv.ParseInt(x.String(), 10, 64); err == nil {
			typ = "DINT"
		}
		*out = append(*out, PayloadMember{path, typ, x.String()})
	case string:
		*out = append(*out, PayloadMember{path, "STRING(80)", x})
	case bool:
		*out = append(*out, PayloadMember{path, "BOOL", strconv.FormatBool(x)})
	}
}

func sorted(list []Heard) []Heard {
	sort.Slice(list, func(i, j int) bool { return list[i].Topic < list[j].Topic })
	return list
}
