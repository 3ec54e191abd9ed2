package tag

import "testing"

func TestLike(t *testing.T) {
	for _, c := range []struct {
		pattern, path string
		want          bool
	}{
		{"", "Kiln1.DryBulb", true}, {"*", "", true}, {"kiln1.drybulb", "Kiln1.DryBulb", true}, {"Kiln1", "Kiln1.DryBulb", false},
		{"*Bulb", "Kiln1.DryBulb", true}, {"*Bulb", "Kiln1.DryBulbSP", false}, {"Fan[*].Speed", "Fan[3].Speed", true},
		{"Fan[*].Speed", "Fan[3].Current", false}, {"a*a", "a", false}, {"a*b*a", "ab-ba", true}, {"a*b*b", "ab", false}, {"**", "x", true},
	} {
		if got := Like(c.pattern, c.path); got != c.want {
			t.Errorf("%q like %q: %v", c.path, c.pattern, got)
		}
	}
}
