package project

import "readyrail/internal/core/say"

// KindPicture are drawings and images.
const KindPicture = "picture"

// Picture is a drawing or image that screens show.
type Picture struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Type string `json:"type"` // image/svg+xml, image/png or image/jpeg
	// Data is the SVG's text, cleaned, or the image in base 64.
	Data string `json:"data"`
	W    int    `json:"w"` // pixels
	H    int    `json:"h"`
	// Parts are the ids in an SVG that can be bound.
	Parts []string `json:"parts,omitempty"`
}

// MaxPicture bounds a picture, in bytes of its data.
const MaxPicture = 2 << 20

var pictureKind = &kindOf[Picture]{
	ThingKind: ThingKind{Name: KindPicture, Stop: StopScreens},
	of:        func(p *Project) *map[string]*Picture { return &p.Pictures },
	read: func(_ *Project, id string, x *Picture, _ bool) (*Picture, error) {
		x.ID = id
		return x, at(x.Check())
	},
	name: func(_ *Project, _ string, x *Picture) string { return x.Name },
}

// Check refuses what cannot be a picture.
func (x *Picture) Check() (place string, err error) {
	switch {
	case x.Name == "" || len(x.Name) > 120:
		return "/name", say.Errorf("a picture needs a name of at most 120 characters")
	case x.Type != "image/svg+xml" && x.Type != "image/png" && x.Type != "image/jpeg":
		return "/type", say.Errorf("a picture is SVG, PNG or JPEG, not %q", x.Type)
	case len(x.Data) == 0 || len(x.Data) > MaxPicture:
		return "/data", say.Errorf("a picture has at most %d bytes", MaxPicture)
	}
	return "", nil
}
