package apart

import (
	"bytes"
	"encoding/gob"
)

// Travelled is an error after its way from the far side to the near one.
func Travelled(err error) error {
	var b bytes.Buffer
	out := &reply{}
	if e := gob.NewEncoder(&b).Encode(&reply{Fault: faultOf(err, err)}); e != nil {
		return e
	}
	if e := gob.NewDecoder(&b).Decode(out); e != nil {
		return e
	}
	return out.Fault.err()
}
