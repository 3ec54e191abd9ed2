package device

import (
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
)

// Topic is an address at an MQTT broker: a topic, and behind a | the way into
// its JSON payload, as in
//
//	yard/weather|outside.temperature
//	yard/+/state|value
//
// Without a way the payload itself is the value. A wildcard (MQTT 3.1.1, 4.7)
// takes the newest message of all topics that match.
type Topic struct {
	Name string
	Path string
}

// ParseTopic reads the text form.
func ParseTopic(s string) (Topic, error) {
	name, path, has := strings.Cut(strings.TrimSpace(s), "|")
	t := Topic{Name: name, Path: path}
	if err := checkTopic(name, true); err != nil {
		return t, err
	}
	if has {
		if _, err := SplitMembers(path); err != nil {
			return t, say.Errorf("address %q: %w", s, err)
		}
	}
	return t, nil
}

// Wild tells whether the topic has a wildcard.
func (t Topic) Wild() bool { return strings.ContainsAny(t.Name, "+#") }

// Match tells whether a topic filter takes a topic (MQTT 3.1.1, 4.7.1).
func (t Topic) Match(topic string) bool {
	filter := t.Name
	if strings.HasPrefix(topic, "$") && !strings.HasPrefix(filter, "$") {
		return false
	}
	for {
		f, fRest, fMore := strings.Cut(filter, "/")
		if f == "#" {
			return true
		}
		p, pRest, pMore := strings.Cut(topic, "/")
		if f != "+" && f != p {
			return false
		}
		if !fMore || !pMore {
			// "a/#" takes "a" too.
			return fMore == pMore || !pMore && fRest == "#"
		}
		filter, topic = fRest, pRest
	}
}

func checkTopic(s string, wild bool) error {
	switch {
	case s == "":
		return say.New("a topic is needed, as in yard/weather|temperature")
	case len(s) > 1000 || strings.ContainsRune(s, 0):
		return say.Errorf("topic %q: at most 1000 characters", s)
	case !wild && strings.ContainsAny(s, "+#"):
		return say.Errorf("topic %q: a wildcard cannot be written to", s)
	}
	for i, level := range strings.Split(s, "/") {
		if strings.ContainsAny(level, "+#") && len(level) > 1 {
			return say.Errorf("topic %q: a wildcard stands alone between slashes", s)
		}
		if level == "#" && i != strings.Count(s, "/") {
			return say.Errorf("topic %q: # stands at the end", s)
		}
	}
	return nil
}

func (d *Device) checkTopicTag(t *tag.Tag) (field string, err error) {
	a, err := ParseTopic(t.Address)
	if err != nil {
		return "address", err
	}
	if t.WriteAddress != "" {
		w, err := ParseTopic(t.WriteAddress)
		if err == nil && w.Wild() {
			err = say.Errorf("topic %q: a wildcard cannot be written to", w.Name)
		}
		if err != nil {
			return "writeAddress", err
		}
	} else if t.Access == tag.ReadWrite && a.Wild() {
		return "access", say.Errorf("topic %q: a wildcard cannot be written to; give a write address of its own", a.Name)
	}
	return "", nil
}
