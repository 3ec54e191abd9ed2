package formula

import (
	"fmt"
	"testing"
)

func TestTextsThatCanBeTheResult(t *testing.T) {
	for formula, want := range map[string]string{
		`"red"`:                                  "[red]",
		`Mode == 2 ? "wood" : "sheet"`:           "[wood sheet]",
		`Name == "x" ? "ink" : "y" != Name`:      "[ink]",
		`Name >= "a" and "b" <= Name ? "c" : ""`: "[c ]",
		`1 + 2`:                                  "[]",
		`"never ends`:                            "[]",
	} {
		if got := fmt.Sprint(ResultTexts(formula)); got != want {
			t.Errorf("%s: %s, want %s", formula, got, want)
		}
	}
}
