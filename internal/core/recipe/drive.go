package recipe

import (
	"readyrail/internal/core/say"
	"time"
)

// Drive lets a controller, or a reader of bar codes, ask for recipes by tags, with
// the behaviour of PLCopen's function blocks. Each is a tag's id, or in a book of a
// type a chain of members; those that are empty are not there.
type Drive struct {
	// Role is whose rights a delivery is sent with, by id.
	Role string `json:"role"`
	// Execute asks for a delivery by its rising; Chosen is the name of the recipe, as
	// a text or as a number that is its name.
	Execute string `json:"execute"`
	Chosen  string `json:"chosen"`
	// Busy, Done, Error and ErrorID answer.
	Busy    string `json:"busy,omitempty"`
	Done    string `json:"done,omitempty"`
	Error   string `json:"error,omitempty"`
	ErrorID string `json:"errorId,omitempty"`
}

// Reasons that ErrorID tells.
const (
	DriveUnknown  = 1 // there is no such recipe, or none of its versions may be sent
	DriveRight    = 2 // the role may not send it there
	DriveRefused  = 3 // the condition does not hold, or something else stands against it
	DriveWentBack = 4 // it did not go through: what was there is there again
	DriveHalf     = 5 // it was left half-way: somebody must deal with it
)

// Ends are the tags of a drive by their places.
func (d *Drive) Ends() map[string]string {
	return map[string]string{"execute": d.Execute, "chosen": d.Chosen, "busy": d.Busy, "done": d.Done, "error": d.Error, "errorId": d.ErrorID}
}

// Answer is what a block tells.
type Answer struct {
	Busy, Done, Error bool
	ErrorID           int64
}

// checkDrive refuses a drive that cannot be.
func (s *Sending) checkDrive() (place string, err error) {
	d := s.Drive
	switch {
	case d == nil:
		return "", nil
	case d.Execute == "" || d.Chosen == "":
		return "/sending/drive", say.Errorf("a book that tags drive has one that asks and one that names the recipe")
	case d.Role == "":
		return "/sending/drive/role", say.Errorf("say by whose role a recipe is sent that tags ask for")
	case s.Sign:
		return "/sending/drive", say.Errorf("no tag signs with a password: ask for no signature, or let no tags drive the book")
	}
	taken := map[string]string{}
	for _, place := range []string{"execute", "chosen", "busy", "done", "error", "errorId"} {
		ref := d.Ends()[place]
		if other, twice := taken[ref]; twice && ref != "" {
			return "/sending/drive/" + place, say.Errorf("this tag is %s already", other)
		}
		taken[ref] = place
	}
	return "", nil
}

// answerStands is how long an answer stands at least where Execute fell before it.
const answerStands = time.Second

// Block is one function block: what it was asked and what it tells. Its zero value
// has seen nothing yet.
type Block struct {
	known, execute bool // as Execute was read last, where it was
	answer         Answer
	ended          time.Time
}

// Step takes Execute as it is read now and tells whether it asks for a delivery: by
// rising from a FALSE that was seen. One that is TRUE at the first look asks for
// nothing, and one that cannot be read alters nothing.
func (b *Block) Step(execute, good bool, now time.Time) (asks bool) {
	if !good {
		return false
	}
	rose := b.known && !b.execute && execute
	b.known, b.execute = true, execute
	switch {
	case b.answer.Busy:
	case rose:
		b.answer = Answer{Busy: true}
		return true
	case !execute && now.Sub(b.ended) >= answerStands:
		b.answer = Answer{}
	}
	return false
}

// End ends the delivery that was asked for; 0 is one that went through.
func (b *Block) End(errorID int64, now time.Time) {
	b.answer, b.ended = Answer{Done: errorID == 0, Error: errorID != 0, ErrorID: errorID}, now
}

// Answer is what the block tells now.
func (b *Block) Answer() Answer { return b.answer }
