package exchange

import (
	"encoding/xml"
	"io"
	"slices"
	"strings"
	"testing"
)

const hostile = `<?xml version="1.0"?>
<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="200px" height="100" onload="alert(1)">
  <script>alert(2)</script>
  <style>@import url(http://evil.example/x.css);</style>
  <foreignObject><body xmlns="http://www.w3.org/1999/xhtml"><img src="x" onerror="alert(3)"/></body></foreignObject>
  <a href="javascript:alert(4)"><rect id="inside-link" width="5" height="5"/></a>
  <g id="motor" onclick="alert(5)" style="fill:url(http://evil.example/f)"><rect id="case" width="40" height="20" fill="url(#grad)"/></g>
  <use xlink:href="http://evil.example/s.svg#x"/><use href="#motor" x="50"/>
  <image href="https://evil.example/a.png"/><image href="data:image/png;base64,AAAA"/><image href="data:image/svg+xml;base64,AAAA"/>
  <animate attributeName="href" to="javascript:alert(6)"/><set attributeName="onclick" to="alert(7)"/>
  <text>a &lt; b</text>
  <linearGradient id="grad"><stop offset="0" stop-color="#fff"/></linearGradient>
</svg>`

func TestADrawingIsMadeSafe(t *testing.T) {
	p, left, err := ReadPicture([]byte(hostile), "Motor.svg")
	if err != nil {
		t.Fatal(err)
	}
	for _, bad := range []string{"alert", "evil", "script", "foreign", "onload", "onclick", "javascript", "@import", "animate",
		"svg+xml;base64", "inside-link"} {
		if strings.Contains(p.Data, bad) {
			t.Errorf("%q is left in\n%s", bad, p.Data)
		}
	}
	for _, good := range []string{`id="motor"`, `id="case"`, `fill="url(#grad)"`, `href="#motor"`, "data:image/png", "a &lt; b",
		`viewBox="0 0 200 100"`} {
		if !strings.Contains(p.Data, good) {
			t.Errorf("%q is gone from\n%s", good, p.Data)
		}
	}
	if p.Name != "Motor" || p.W != 200 || p.H != 100 || !slices.Equal(p.Parts, []string{"motor", "case", "grad"}) {
		t.Errorf("%q %d×%d %v", p.Name, p.W, p.H, p.Parts)
	}
	if !slices.Contains(left, "<script> (1)") || !slices.Contains(left, "event onclick (1)") {
		t.Errorf("left out: %v", left)
	}
	again, left, err := ReadPicture([]byte(p.Data), "x")
	if err != nil || again.Data != p.Data || len(left) != 0 {
		t.Errorf("cleaned twice it differs: %v %v", left, err)
	}
}

func TestWhatIsNoPictureIsRefused(t *testing.T) {
	for what, data := range map[string]string{
		"empty": "", "begins with": "<html></html>", "no drawing that can be read": "<svg><g></svg>",
		"entities": `<!DOCTYPE svg [<!ENTITY a "b">]><svg>&a;</svg>`,
		"no <svg>": "   ", "cannot be read": "\x89PNG\r\n\x1a\nxxxx",
		"in each other": "<svg>" + strings.Repeat("<g>", 200) + strings.Repeat("</g>", 200) + "</svg>",
	} {
		if _, _, err := ReadPicture([]byte(data), "x"); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

func FuzzPicture(f *testing.F) {
	f.Add(hostile)
	f.Add(`<svg><path d="M0 0" style="fill:\75rl(http://x)"/></svg>`)
	f.Add(`<svg viewBox="0,0 1e9 nan"><use href=" #a"/></svg>`)
	f.Fuzz(func(t *testing.T, s string) {
		p, _, err := ReadPicture([]byte(s), "x")
		if err != nil || p.Type != "image/svg+xml" {
			return
		}
		d := xml.NewDecoder(strings.NewReader(p.Data))
		for {
			token, err := d.Token()
			if err == io.EOF {
				return
			}
			if err != nil {
				t.Fatalf("what was made of %q cannot be read: %v", s, err)
			}
			if e, ok := token.(xml.StartElement); ok {
				if !svgElements[e.Name.Local] {
					t.Fatalf("<%s> came through", e.Name.Local)
				}
				for _, a := range e.Attr {
					if v := strings.ToLower(a.Value); strings.HasPrefix(strings.ToLower(a.Name.Local), "on") ||
						a.Name.Local == "href" && !innerReference.MatchString(a.Value) && !imageData.MatchString(a.Value) ||
						strings.Contains(v, "javascript:") {
						t.Fatalf("%s=%q came through", a.Name.Local, a.Value)
					}
				}
			}
		}
	})
}
