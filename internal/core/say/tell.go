package say

import (
	"errors"
	"reflect"
	"sync"
)

var textType = reflect.TypeFor[Text]()

// Tell puts every Text that an answer holds into a language: what lies behind its
// pointers, slices and maps is changed in place, so an answer is made for one who asks.
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

// holding remembers which types hold a Text somewhere.
var holding sync.Map

func holdsText(t reflect.Type) bool {
	if known, ok := holding.Load(t); ok {
		return known.(bool)
	}
	holding.Store(t, false) // while it is looked at: a type may hold itself
	found := t == textType
	switch t.Kind() {
	case reflect.Slice, reflect.Array, reflect.Pointer:
		found = holdsText(t.Elem())
	case reflect.Struct:
		for i := 0; i < t.NumField() && !found; i++ {
			found = t.Field(i).IsExported() && holdsText(t.Field(i).Type)
		}
	}
	holding.Store(t, found)
	return found
}
