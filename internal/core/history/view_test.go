package history

import "testing"

func TestViewsThatCannotBe(t *testing.T) {
	low, high := 10.0, 5.0
	for _, c := range []struct {
		view  View
		place string
	}{
		{View{Name: "Climate", Type: "t-chamber", Span: 3600, Pens: []ViewPen{{Tag: "$.dry"}, {Tag: "t-1", Inverted: true}}}, ""},
		{View{Name: "Nothing yet"}, ""},
		{View{Name: "  "}, "/name"},
		{View{Name: "Climate", Span: -1}, "/span"},
		{View{Name: "Climate", Span: LongestSpan + 1}, "/span"},
		{View{Name: "Climate", Pens: make([]ViewPen, MostPens+1)}, "/pens"},
		{View{Name: "Climate", Pens: []ViewPen{{}}}, "/pens/0/tag"},
		{View{Name: "Climate", Pens: []ViewPen{{Tag: "$.dry"}}}, "/pens/0/tag"},
		{View{Name: "Climate", Type: "t-chamber", Pens: []ViewPen{{Tag: Own}}}, "/pens/0/tag"},
		{View{Name: "Climate", Pens: []ViewPen{{Tag: "a"}, {Tag: "a"}}}, "/pens/1/tag"},
		{View{Name: "Climate", Pens: []ViewPen{{Tag: "a", Low: &low, High: &high}}}, "/pens/0/high"},
	} {
		place, err := c.view.Check()
		if place != c.place || (err == nil) != (place == "") {
			t.Errorf("%+v: %q %v", c.view, place, err)
		}
	}
}
