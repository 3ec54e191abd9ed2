package value

import "testing"

func TestSpreadsheetCellsAreInert(t *testing.T) {
	for in, want := range map[string]string{
		"=1+1": "'=1+1", "+4": "+4", "-4": "-4", "-4.5e3": "-4.5e3", "-1+1": "'-1+1", "+A1": "'+A1", "@x": "'@x",
		"'quoted": "''quoted", "72.0": "72.0", "": "",
		" =1+1": "' =1+1", "\n=1+1": "'\n=1+1", "\r=1": "'\r=1", "\t=1": "'\t=1",
		"＝1+1": "'＝1+1", "\u00a0=1": "'\u00a0=1", "plain text": "plain text", "-": "'-"} {
		got := Inert(in)
		if got != want || Live(got) != in {
			t.Errorf("%q became %q, want %q, and came back as %q", in, got, want, Live(got))
		}
	}
}
