package project

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
)

// JSON pointers (RFC 6901) into documents; members of objects only.

var unescapePointer = strings.NewReplacer("~1", "/", "~0", "~")

func splitPointer(path string) ([]string, error) {
	if path == "" {
		return nil, nil
	}
	if path[0] != '/' {
		return nil, errors.New("a JSON pointer starts with /")
	}
	keys := strings.Split(path[1:], "/")
	for i := range keys {
		keys[i] = unescapePointer.Replace(keys[i])
	}
	return keys, nil
}

// valueAt returns what stands at a pointer, nil when nothing does.
func valueAt(doc json.RawMessage, path string) json.RawMessage {
	keys, err := splitPointer(path)
	if err != nil || len(doc) == 0 {
		return nil
	}
	for _, k := range keys {
		var m map[string]json.RawMessage
		if json.Unmarshal(doc, &m) != nil {
			return nil
		}
		var ok bool
		if doc, ok = m[k]; !ok {
			return nil
		}
	}
	return doc
}

// setValue returns the document with a value set, or removed when it is nil.
// Objects on the way are made; an array on the way is refused.
func setValue(doc json.RawMessage, path string, v json.RawMessage) (json.RawMessage, error) {
	keys, err := splitPointer(path)
	if err != nil {
		return nil, err
	}
	return setKeys(doc, keys, v)
}

func setKeys(doc json.RawMessage, keys []string, v json.RawMessage) (json.RawMessage, error) {
	if len(keys) == 0 {
		return v, nil
	}
	m := map[string]json.RawMessage{}
	if len(doc) > 0 && string(doc) != "null" {
		if err := json.Unmarshal(doc, &m); err != nil {
			return nil, fmt.Errorf("%q lies in something that is no object", keys[0])
		}
	}
	if len(keys) == 1 && v == nil {
		delete(m, keys[0])
		return json.Marshal(m)
	}
	inner, err := setKeys(m[keys[0]], keys[1:], v)
	if err != nil {
		return nil, err
	}
	m[keys[0]] = inner
	return json.Marshal(m)
}
