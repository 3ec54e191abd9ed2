package tag

import (
	"strings"
	"testing"
)

func TestOrderKeysOrderAsCompareDoes(t *testing.T) {
	list := []string{"A", "a.B", "A.b2", "A.b10", "A.b02", "A[2].x", "A[10].x", "A_1", "A1", "A1b", "a1_b", "Fan[2]", "Fan2", "Fan.2x", "b",
		"A.B", "A0", "A00", "A007.x", "A7.y", ""}
	for _, a := range list {
		for _, b := range list {
			if x, y := Compare(a, b), strings.Compare(OrderKey(a), OrderKey(b)); x != y {
				t.Errorf("%q and %q: %d by Compare, %d by their keys", a, b, x, y)
			}
		}
	}
}
