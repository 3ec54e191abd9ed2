package exchange

import (
	"bytes"
	"encoding/base64"
	"encoding/xml"
	"fmt"
	"image"
	_ "image/jpeg" // for the size of a picture
	_ "image/png"
	"io"
	"net/http"
	"regexp"
	"strconv"
	"strings"

	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
)

// Limits of a drawing.
const (
	maxSVGNodes = 20_000
	maxSVGDepth = 100
	maxSVGParts = 2_000
)

// svgElements are the elements of a drawing that are taken over: shapes, text,
// what they are filled and cut with. Scripts, foreign objects, animations,
// style sheets, links and anything else are left out with all in them.
var svgElements = setOf("svg g defs symbol use path rect circle ellipse line polyline polygon text tspan title desc image linearGradient radialGradient stop clipPath mask pattern marker")

// svgAttributes are the attributes that are taken over.
var svgAttributes = setOf("id d x y x1 y1 x2 y2 cx cy r rx ry fx fy width height points viewBox preserveAspectRatio transform fill fill-opacity fill-rule stroke stroke-width stroke-opacity stroke-linecap stroke-linejoin stroke-dasharray stroke-dashoffset stroke-miterlimit opacity clip-path clip-rule mask marker-start marker-mid marker-end markerWidth markerHeight refX refY orient markerUnits gradientUnits gradientTransform spreadMethod offset stop-color stop-opacity patternUnits patternTransform patternContentUnits clipPathUnits maskUnits font-family font-size font-weight font-style text-anchor dominant-baseline letter-spacing dx dy rotate visibility display color vector-effect paint-order style href")

func setOf(words string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(words) {
		m[w] = true
	}
	return m
}

var (
	innerReference = regexp.MustCompile(`^#[\w.:-]+$`)
	imageData      = regexp.MustCompile(`^data:image/(png|jpeg);base64,[A-Za-z0-9+/=\s]*$`)
	urlOf          = regexp.MustCompile(`(?i)url\(\s*['"]?([^'")]*)['"]?\s*\)`)
)

// ReadPicture reads a drawing or an image from a file that nobody has looked
// at. A drawing is made safe; its ids are kept, so that its parts can be bound.
// left says what was left out of it.
func ReadPicture(data []byte, name string) (p *project.Picture, left []string, err error) {
	if len(data) == 0 {
		return nil, nil, say.New("the file is empty")
	}
	if len(data) > project.MaxPicture*3/4 {
		return nil, nil, say.Errorf("the picture has %d kB; %d kB is the most", len(data)>>10, project.MaxPicture*3/4>>10)
	}
	if i := strings.LastIndexByte(name, '.'); i > 0 {
		name = name[:i]
	}
	if name = strings.TrimSpace(name); name == "" {
		name = "Picture"
	}
	p = &project.Picture{Name: name[:min(len(name), 120)], Type: http.DetectContentType(data)}
	if p.Type == "image/png" || p.Type == "image/jpeg" {
		c, _, err := image.DecodeConfig(bytes.NewReader(data))
		if err != nil || c.Width*c.Height > 64<<20 {
			return nil, nil, say.New("this image cannot be read, or has more than 64 megapixels")
		}
		p.W, p.H, p.Data = c.Width, c.Height, base64.StdEncoding.EncodeToString(data)
		return p, nil, nil
	}
	p.Type = "image/svg+xml"
	c := &svgCleaner{p: p, left: map[string]int{}, seen: map[string]bool{}}
	if err := c.read(data); err != nil {
		return nil, nil, err
	}
	return p, c.leftOut(), nil
}

type svgCleaner struct {
	p     *project.Picture
	out   bytes.Buffer
	left  map[string]int
	order []string
	seen  map[string]bool
	nodes int
}

func (c *svgCleaner) leave(what string) {
	if c.left[what] == 0 {
		c.order = append(c.order, what)
	}
	c.left[what]++
}

func (c *svgCleaner) leftOut() []string {
	var out []string
	for _, what := range c.order {
		out = append(out, fmt.Sprintf("%s (%d)", what, c.left[what]))
	}
	return out
}

func (c *svgCleaner) read(data []byte) error {
	d := xml.NewDecoder(bytes.NewReader(data))
	d.Strict = true
	d.Entity = map[string]string{}
	depth := 0
	skipping := 0
	for {
		token, err := d.Token()
		if err == io.EOF {
			break
		}
		if err != nil {
			line, column := d.InputPos()
			return say.Errorf("this is no drawing that can be read: line %d, column %d: %v", line, column, err)
		}
		switch t := token.(type) {
		case xml.Directive:
			if bytes.Contains(bytes.ToUpper(t), []byte("ENTITY")) {
				return say.New("a drawing that declares entities is not taken")
			}
		case xml.StartElement:
			depth++
			if c.nodes++; c.nodes > maxSVGNodes || depth > maxSVGDepth {
				return say.Errorf("the drawing has more than %d elements, or more than %d in each other", maxSVGNodes, maxSVGDepth)
			}
			switch {
			case depth == 1 && t.Name.Local != "svg":
				return say.Errorf("this is no drawing: it begins with <%s>, not <svg>", t.Name.Local)
			case skipping > 0:
				skipping++
			case !svgElements[t.Name.Local] || depth > 1 && t.Name.Local == "svg" && depth > maxSVGDepth:
				c.leave("<" + t.Name.Local + ">")
				skipping = 1
			default:
				c.start(t, depth == 1)
			}
		case xml.EndElement:
			depth--
			if skipping > 0 {
				skipping--
			} else {
				c.out.WriteString("</" + t.Name.Local + ">")
			}
		case xml.CharData:
			if skipping == 0 && depth > 0 {
				if err := xml.EscapeText(&c.out, t); err != nil {
					return err
				}
			}
		}
	}
	if c.nodes == 0 {
		return say.New("this is no drawing: it has no <svg>")
	}
	c.p.Data = c.out.String()
	return nil
}

func (c *svgCleaner) start(t xml.StartElement, root bool) {
	c.out.WriteString("<" + t.Name.Local)
	if root {
		c.out.WriteString(` xmlns="http://www.w3.org/2000/svg"`)
		c.size(t)
	}
	for _, a := range t.Attr {
		name := a.Name.Local
		v, ok := c.attribute(t.Name.Local, name, a.Name.Space, a.Value)
		if !ok || root && (name == "width" || name == "height" || name == "viewBox") {
			continue
		}
		if name == "id" && len(c.p.Parts) < maxSVGParts && !c.seen[v] {
			c.seen[v] = true
			c.p.Parts = append(c.p.Parts, v)
		}
		c.out.WriteString(" " + name + `="`)
		_ = xml.EscapeText(&c.out, []byte(v)) // a buffer takes every write
		c.out.WriteString(`"`)
	}
	c.out.WriteString(">")
}

// size gives the drawing a view of its own size.
func (c *svgCleaner) size(t xml.StartElement) {
	at := map[string]string{}
	for _, a := range t.Attr {
		at[a.Name.Local] = a.Value
	}
	number := func(s string) float64 {
		f, _ := strconv.ParseFloat(strings.TrimRight(strings.TrimSpace(s), "pxtmcin%"), 64)
		return f
	}
	w, h := number(at["width"]), number(at["height"])
	box := strings.Fields(strings.ReplaceAll(at["viewBox"], ",", " "))
	if len(box) == 4 {
		if bw, bh := number(box[2]), number(box[3]); bw > 0 && bh > 0 {
			w, h = bw, bh
		}
		fmt.Fprintf(&c.out, ` viewBox="%g %g %g %g"`, number(box[0]), number(box[1]), number(box[2]), number(box[3]))
	} else {
		if w <= 0 || h <= 0 {
			w, h = 100, 100
		}
		fmt.Fprintf(&c.out, ` viewBox="0 0 %g %g"`, w, h)
	}
	c.p.W, c.p.H = int(min(max(w, 1), 10_000)), int(min(max(h, 1), 10_000))
}

// attribute returns what may stay of an attribute.
func (c *svgCleaner) attribute(element, name, space, v string) (string, bool) {
	lower := strings.ToLower(name)
	switch {
	case space == "xmlns" || lower == "xmlns":
		return "", false
	case strings.HasPrefix(lower, "on"):
		c.leave("event " + name)
		return "", false
	case !svgAttributes[name]:
		return "", false
	case name == "href":
		if innerReference.MatchString(v) || element == "image" && imageData.MatchString(v) {
			return v, true
		}
		c.leave("reference to elsewhere")
		return "", false
	case strings.ContainsAny(v, "\x00"):
		return "", false
	}
	for _, m := range urlOf.FindAllStringSubmatch(v, -1) {
		if !innerReference.MatchString(strings.TrimSpace(m[1])) {
			c.leave("reference to elsewhere")
			return "", false
		}
	}
	flat := strings.ToLower(strings.Join(strings.Fields(v), ""))
	if strings.Contains(flat, "expression(") || strings.Contains(flat, "javascript:") || strings.Contains(flat, "@import") ||
		strings.Contains(flat, "-moz-binding") || name == "style" && strings.Contains(v, `\`) {
		c.leave("style with a script")
		return "", false
	}
	return v, true
}
