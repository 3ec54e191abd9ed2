package screen

import "testing"

func TestColours(t *testing.T) {
	for text, want := range map[string]bool{
		"ink": true, "none": true, "ink 40%": true, "#4B6C9E": true, "#4B6C9E80": true,
		"red": false, "none 40%": false, "ink 0%": false, "ink 100%": false, "ink 4": false, "#4B6C9E 40%": false, "#4B6C9": false, "": false,
		"ink  40%": false,
	} {
		if Colour(text) != want {
			t.Errorf("%q: %v", text, !want)
		}
	}
}
