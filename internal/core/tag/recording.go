package tag

import "readyrail/internal/core/say"

// Recording is what the recorder does with a tag, or with the tags of a folder,
// where that is not the usual.
type Recording struct {
	Off bool `json:"off,omitempty"` // nothing is kept
	// Band is the move that is not worth keeping, in the tag's unit; 0 keeps every
	// change.
	Band *float64 `json:"band,omitempty"`
	// Days is how long it is kept; as long as everything else where it is 0.
	Days int `json:"days,omitempty"`
}

// MostRecorded is the longest that the recorder keeps anything, in days.
const MostRecorded = 3660

// Check refuses what cannot be; field is the property at fault.
func (r *Recording) Check() (field string, err error) {
	switch {
	case r == nil:
	case r.Band != nil && *r.Band < 0:
		return "band", say.Errorf("a band is not negative; 0 keeps every change")
	case r.Days < 0 || r.Days > MostRecorded:
		return "days", say.Errorf("1 to %d days, or 0 for as long as everything else", MostRecorded)
	case r.Off && (r.Band != nil || r.Days > 0):
		return "off", say.Errorf("what is not kept has neither a band nor days")
	}
	return "", nil
}
