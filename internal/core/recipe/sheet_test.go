package recipe

import (
	"fmt"
	"readyrail/internal/core/say"
	"strings"
	"testing"
)

// told is what the fields of a sheet are, in a line.
func told(fields []SheetField) string {
	var out []string
	for _, f := range fields {
		s := fmt.Sprintf("%s:%s", f.Name, f.Type)
		for _, part := range []string{f.Title, f.Group, f.Unit, f.Low, f.High, f.Default, f.Formula, f.Help, f.Goes,
			say.Text{Why: f.Why}.String()} {
			if part != "" {
				s += "/" + part
			}
		}
		if f.Decimals != nil {
			s += fmt.Sprintf("/.%d", *f.Decimals)
		}
		out = append(out, s)
	}
	return strings.Join(out, " ")
}

func TestFieldsOfASheet(t *testing.T) {
	for name, c := range map[string]struct {
		sheet string // cells by ; and lines by |
		want  string
	}{
		"a column each": {
			"Name;Dry bulb (°C);Steps;Fan [%];Wood;Open|A;62.5;6;40.25;Larch;true|B;7;12;3;Oak;FALSE",
			"Dry_bulb:REAL/Dry bulb/°C/.1 Steps:DINT/Steps Fan:REAL/Fan/%/.2 " +
				"Wood:STRING(20)/Wood Open:BOOL/Open",
		},
		"decimal commas":   {"Druck|62,5|7", "Druck:REAL/Druck/.1"},
		"no values":        {"Weight (kg)", "Weight:REAL/Weight/kg"},
		"some cells empty": {"Count;|3;x|;", "Count:DINT/Count"},
		"a line each": {
			"name;type;title;group;unit;low;high;default;help;tag;formula|" +
				"Step[1].Dry;lreal;Dry bulb;Step 1;°C;20;Wet + 2;60;Of the air;Kiln1.Dry;|Wet;REAL;;;;;;;;;Dry - 2",
			"Step[1].Dry:LREAL/Dry bulb/Step 1/°C/20/Wet + 2/60/Of the air/Kiln1.Dry Wet:REAL/Dry - 2",
		},
		"a type that is none": {"name;type|A;REEL|B;INT", `A:/type: "REEL" cannot be read B:INT`},
		"decimals":            {"name;type;decimals;step|A;REAL;2;0.5|B;REAL;x;", `A:REAL/.2 B:REAL/decimals: "x" cannot be read`},
		"names are fitted":    {"name;type|Höchster Wert;INT|1st.or;INT", "Hoechster_Wert:INT N1st.or_:INT"},
	} {
		var cells [][]string
		for _, line := range strings.Split(c.sheet, "|") {
			cells = append(cells, strings.Split(line, ";"))
		}
		fields, ignored, err := FieldsOf(cells)
		if got := told(fields); err != nil || len(ignored) > 0 || got != c.want {
			t.Errorf("%s: %v %v\n%s\n%s", name, err, ignored, got, c.want)
		}
	}
	_, ignored, err := FieldsOf([][]string{{"Name", "Type", "Supplier"}, {"A", "INT", "x"}})
	if err != nil || strings.Join(ignored, "") != "Supplier" {
		t.Error(ignored, err)
	}
	for _, bad := range [][][]string{nil, {{"Name"}}, {{"", " "}}, {make([]string, 3)}, {strings.Split(strings.Repeat("x;", 1001)+"y", ";")}} {
		if fields, _, err := FieldsOf(bad); err == nil {
			t.Errorf("%.60v made %d fields", bad, len(fields))
		}
	}
}
