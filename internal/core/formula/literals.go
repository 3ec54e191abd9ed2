package formula

import "strings"

// ResultTexts lists the texts that stand in a formula and can be its result:
// one that is compared with something cannot.
func ResultTexts(formula string) []string {
	var out []string
	for at := 0; at < len(formula); at++ {
		if formula[at] != '"' {
			continue
		}
		end := at + 1
		for end < len(formula) && formula[end] != '"' {
			if formula[end] == '\\' {
				end++
			}
			end++
		}
		if end >= len(formula) {
			break
		}
		before, after := strings.TrimRight(formula[:at], " "), strings.TrimLeft(formula[end+1:], " ")
		if !compared(before, after) {
			out = append(out, unescape.Replace(formula[at+1:end]))
		}
		at = end
	}
	return out
}

func compared(before, after string) bool {
	for _, op := range []string{"=", "<", ">"} {
		if strings.HasSuffix(before, op) || strings.HasPrefix(after, op) {
			return true
		}
	}
	return strings.HasPrefix(after, "!=")
}
