package record

import (
	"testing"

	"readyrail/internal/store"
)

func TestAnOccurrence(t *testing.T) {
	at := func(what string, ms int64, person string) store.Entry {
		return store.Entry{Seq: ms, At: ms * 1e6, What: what, Person: person, Text: what + "!", State: "after " + what}
	}
	for name, c := range map[string]struct {
		after []store.Entry
		want  Occurrence
	}{
		"stands":       {nil, Occurrence{State: "after raised"}},
		"acknowledged": {[]store.Entry{at("acknowledged", 50, "Tom")}, Occurrence{Acked: 50, By: "Tom", State: "after acknowledged"}},
		"went first": {[]store.Entry{at("cleared", 30, ""), at("acknowledged", 50, "Tom")},
			Occurrence{Acked: 50, By: "Tom", Went: 30, Long: 20, Gone: "cleared!", State: "after acknowledged"}},
		"came again": {[]store.Entry{at("cleared", 30, ""), at("raised", 40, ""), at("acknowledged", 50, "Tom")},
			Occurrence{Went: 30, Long: 20, Gone: "cleared!", State: "after cleared"}},
		"other things between": {[]store.Entry{at("shelved", 20, "Iris"), at("cleared", 10, "")},
			Occurrence{Went: 10, Long: 1, Gone: "cleared!", State: "after cleared"}},
	} {
		came := at("raised", 10, "")
		c.want.Seq, c.want.Came, c.want.Text = 10, 10, "raised!"
		if got := occurrence(&came, c.after); got != c.want {
			t.Errorf("%s: %+v", name, got)
		}
	}
}
