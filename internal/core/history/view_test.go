package history

import (
	"strings"
	"testing"
)

func TestViewsThatCannotBe(t *testing.T) {
	low, high, many := 10.0, 5.0, 7
	column := func(c ViewColumn) View { return View{Name: "Climate", Pens: []ViewPen{{Tag: "a", Column: &c}}} }
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
		{column(ViewColumn{Title: "Dry bulb", Prefix: "ca. ", Width: 80, Align: "centre", Colour: "quiet"}), ""},
		{column(ViewColumn{Title: strings.Repeat("x", 81)}), "/pens/0/column/title"},
		{column(ViewColumn{Prefix: strings.Repeat("x", 21)}), "/pens/0/column/prefix"},
		{column(ViewColumn{Decimals: &many}), "/pens/0/column/decimals"},
		{column(ViewColumn{Width: 601}), "/pens/0/column/width"},
		{column(ViewColumn{Align: "top"}), "/pens/0/column/align"},
		{column(ViewColumn{Colour: "#f00"}), "/pens/0/column/colour"},
	} {
		place, err := c.view.Check()
		if place != c.place || (err == nil) != (place == "") {
			t.Errorf("%+v: %q %v", c.view, place, err)
		}
	}
}
