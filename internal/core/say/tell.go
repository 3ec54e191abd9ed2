package say

import (
	"errors"
	"reflect"
	"sync"
)

var textType = reflect.TypeFor[Text]()

// Tell puts every Text that an answer holds into a language, but for those in maps and
// interfaces. What lies behind its pointers and slices is changed in place: an answer is
// made for one who asks.
func Tell(language string, answer any) any {
	v := reflect.ValueOf(answer)
	if !v.IsValid() || !holdsText(v.Type()) {
		return answer
	}
	told := reflect.New(v.Type()).Elem()
	told.Set(v)
	tell(language, told)
	return told.Interface()
}

func tell(language string, v reflect.Value) {
	if !holdsText(v.Type()) {
		return
	}
	switch v.Kind() {
	case reflect.Struct:
		if v.Type() == textType {
			if t := v.Interface().(Text); t.Why != nil {
				v.Set(reflect.ValueOf(Text{errors.New(In(language, t.Why))}))
			}
			return
		}
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				tell(language, v.Field(i))
			}
		}
	case reflect.Slice, reflect.Array:
		for i := range v.Len() {
			tell(language, v.Index(i))
		}
	case reflect.Pointer:
		if !v.IsNil() {
			tell(language, v.Elem())
		}
	}
}

// holding remembers which types lead to a Text.
var holding sync.Map

func holdsText(t reflect.Type) bool {
	if known, ok := holding.Load(t); ok {
		return known.(bool)
	}
	found := leadsToText(t, map[reflect.Type]bool{})
	holding.Store(t, found)
	return found
}

// leadsToText looks through a type that may hold itself; seen are those that were
// looked at.
func leadsToText(t reflect.Type, seen map[reflect.Type]bool) bool {
	if t == textType || seen[t] {
		return t == textType
	}
	seen[t] = true
	switch t.Kind() {
	case reflect.Slice, reflect.Array, reflect.Pointer:
		return leadsToText(t.Elem(), seen)
	case reflect.Struct:
		for i := range t.NumField() {
			if f := t.Field(i); f.IsExported() && leadsToText(f.Type, seen) {
				return true
			}
		}
	}
	return false
}
