package value

import "testing"

func TestSpreadsheetCellsAreInert(t *testing.T) {
	for in, want := range map[string]string{"=1+1": "'=1+1", "+4": "'+4", "-4": "'-4", "@x": "'@x", "'quoted": "''quoted", "72.0": "72.0", "": ""} {
		got := Inert(in)
		if got != want || Live(got) != in {
			t.Errorf("%q became %q, want %q, and came back as %q", in, got, want, Live(got))
		}
	}
}
