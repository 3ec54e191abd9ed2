package history

import (
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/value"
)

// courseOf reads values as "time:value", with "-" for not recorded and "x" for no
// answer.
func courseOf(text string) (out []value.Value) {
	for _, word := range strings.Fields(text) {
		var at int64
		var what string
		fmt.Sscanf(strings.Replace(word, ":", " ", 1), "%d %s", &at, &what)
		v := value.Bad(value.LREAL, value.BadUnrecorded)
		switch what {
		case "-":
		case "x":
			v = value.Bad(value.LREAL, value.BadNoAnswer)
		default:
			v, _ = value.Parse(value.Type{Kind: value.LREAL}, what)
		}
		out = append(out, v.AtNanos(at))
	}
	return out
}

// What comes out of a file fills what nothing is known of, and ends where it
// ended; what was kept stands.
func TestFill(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name, own, file string
		moments         bool
		want            string
		there, known    int
	}{
		{"nothing was kept", "", "10:1 20:2 30:3", false, "10:1 20:2 30:3 40:-", 0, 0},
		{"what was kept stands", "5:7", "10:1 20:2", false, "", 0, 2},
		{"the same file again", "10:1 20:2 30:-", "10:1 20:2", false, "", 2, 0},
		{"a time twice", "", "10:1 10:2 20:3", false, "10:1 20:3 30:-", 1, 0},
		{"a hole", "5:7 12:- 27:8", "10:1 15:2 20:3 30:4", false, "15:2 20:3", 0, 2},
		{"known to be bad is known", "5:x", "10:1", false, "", 0, 1},
		{"it goes on soon after", "25:8", "10:1 20:2", false, "10:1 20:2", 0, 0},
		{"it goes on later", "90:8", "10:1 20:2", false, "10:1 20:2 30:-", 0, 0},
		{"the file knows nothing at its end", "", "10:1 20:-", false, "10:1 20:-", 0, 0},
		{"kept at moments", "5:7 15:8", "10:1 15:2 20:3", true, "10:1 20:3", 1, 0},
	} {
		own := Column{Kind: value.LREAL}
		for _, v := range courseOf(c.own) {
			own.Append(v.Nanos(), v)
		}
		f := Fill([]Column{own}, courseOf(c.file), c.moments, 10)
		var got []string
		for _, v := range f.Take {
			text := "-"
			if !v.Quality.IsBad() {
				text = v.Text()
			}
			got = append(got, fmt.Sprintf("%d:%s", v.Nanos(), text))
		}
		if s := strings.Join(got, " "); s != c.want || f.There != c.there || f.Known != c.known {
			t.Errorf("%s: %s, %d there, %d known", c.name, s, f.There, f.Known)
		}
	}
}
