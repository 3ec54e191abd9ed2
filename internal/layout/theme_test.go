package layout

import (
	"math"
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"
)

// luminance is the relative luminance of WCAG 2.2.
func luminance(hex string) float64 {
	channel := func(i int) float64 {
		n, _ := strconv.ParseUint(hex[i:i+2], 16, 8)
		c := float64(n) / 255
		if c <= 0.04045 {
			return c / 12.92
		}
		return math.Pow((c+0.055)/1.055, 2.4)
	}
	return 0.2126*channel(1) + 0.7152*channel(3) + 0.0722*channel(5)
}

func contrast(a, b string) float64 {
	x, y := luminance(a), luminance(b)
	return (math.Max(x, y) + 0.05) / (math.Min(x, y) + 0.05)
}

func themes(t *testing.T) map[string]map[string]string {
	t.Helper()
	src, err := os.ReadFile("../../web/src/theme.ts")
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]map[string]string{}
	pair := regexp.MustCompile(`(\w+): '(#[0-9A-Fa-f]{6})'`)
	for _, name := range []string{"light", "dark"} {
		_, rest, ok := strings.Cut(string(src), "export const "+name)
		if !ok {
			t.Fatalf("the theme file has no %s colours", name)
		}
		block, _, _ := strings.Cut(rest, "\n}")
		out[name] = map[string]string{}
		for _, m := range pair.FindAllStringSubmatch(block, -1) {
			out[name][m[1]] = m[2]
		}
	}
	return out
}

// Text meets 4.5:1 and marks 3:1 (WCAG 2.2, 1.4.3 and 1.4.11) on what they lie on.
func TestContrast(t *testing.T) {
	for name, c := range themes(t) {
		for _, p := range []struct {
			fore, back string
			least      float64
		}{
			{"ink", "paper", 4.5}, {"ink", "sheet", 4.5}, {"ink", "field", 4.5}, {"ink", "tint", 4.5}, {"quiet", "paper", 4.5},
			{"quiet", "sheet", 4.5},
			{"fieldQuiet", "field", 4.5}, {"spruce", "sheet", 4.5}, {"spruce", "paper", 4.5}, {"spruce", "tint", 4.5}, {"onSpruce", "spruce", 4.5},
			{"error", "sheet", 4.5}, {"error", "paper", 4.5}, {"warning", "sheet", 4.5}, {"railText", "rail", 4.5}, {"railQuiet", "rail", 4.5},
			{"railAccent", "rail", 3}, {"ink", "metal", 3}, {"woodEdge", "field", 3},
		} {
			if c[p.fore] == "" || c[p.back] == "" {
				t.Errorf("%s: %s or %s is not in the theme", name, p.fore, p.back)
				continue
			}
			if got := contrast(c[p.fore], c[p.back]); got < p.least {
				t.Errorf("%s: %s on %s is %.2f:1, less than %.1f:1", name, p.fore, p.back, got, p.least)
			}
		}
	}
	if got := contrast("#000000", "#FFFFFF"); math.Abs(got-21) > 0.01 {
		t.Errorf("black on white is %.2f:1, not 21:1", got)
	}
}
