package tag

import "readyrail/internal/core/value"

// SystemValue is something that the application itself tells through a tag.
type SystemValue struct {
	Name string     `json:"name"`
	Does string     `json:"does"`
	Type value.Type `json:"type"`
	// Own says that the value is each viewer's own: who is signed in there, and
	// which desk it is. Such a tag serves screens, not computed tags.
	Own bool `json:"own,omitempty"`
	// Time says that it only tells the time: its course is not kept.
	Time bool `json:"-"`
	// Device says that the tag's device is the one it is about.
	Device bool `json:"device,omitempty"`
	// Log says that it is of the log that the tag names.
	Log bool `json:"log,omitempty"`
	// Book says that it is of the book of recipes that the tag names; Target, that it
	// is of one place that the book is sent to: the equipment that the tag is of.
	Book   bool `json:"book,omitempty"`
	Target bool `json:"target,omitempty"`
	// Field says that it is one of the book's fields, which the tag names, and is of
	// that field's type. A person enters it where an element shows it: what is
	// entered is an edit of the recipe that is open there.
	Field bool `json:"field,omitempty"`
}

// FieldOfRecipe is the system value that is a field of the recipe that is open.
const FieldOfRecipe = "recipe.field"

var (
	sysInt  = value.Type{Kind: value.INT}
	sysLong = value.Type{Kind: value.LINT}
	sysReal = value.Type{Kind: value.LREAL}
	sysText = value.Type{Kind: value.STRING, Len: 80}
	sysBool = value.Type{Kind: value.BOOL}
)

// SystemValues lists what there is, in the order in which it is offered. Clock
// and date are the server's local ones.
var SystemValues = []SystemValue{
	{Name: "clock", Does: "date and time, 2026-11-23 14:05:09", Type: sysText, Time: true},
	{Name: "clock.unix", Does: "seconds since 1970, UTC", Type: sysLong, Time: true},
	{Name: "clock.year", Does: "year", Type: sysInt, Time: true},
	{Name: "clock.month", Does: "month, 1 to 12", Type: sysInt, Time: true},
	{Name: "clock.day", Does: "day of the month", Type: sysInt, Time: true},
	{Name: "clock.weekday", Does: "day of the week, 1 is Monday (ISO 8601)", Type: sysInt, Time: true},
	{Name: "clock.hour", Does: "hour, 0 to 23", Type: sysInt, Time: true},
	{Name: "clock.minute", Does: "minute", Type: sysInt, Time: true},
	{Name: "clock.second", Does: "second", Type: sysInt, Time: true},
	{Name: "person", Does: "who is signed in at the desk that looks", Type: sysText, Own: true},
	{Name: "desk", Does: "name of the desk that looks", Type: sysText, Own: true},
	{Name: "link.up", Does: "the device is connected", Type: sysBool, Device: true},
	{Name: "link.roundTrip", Does: "the device's last round trip, ms", Type: sysReal, Device: true},
	{Name: "link.errors", Does: "requests to the device that failed", Type: sysLong, Device: true},
	{Name: "link.heartbeat", Does: "the device's heartbeat is heard", Type: sysBool, Device: true},
	{Name: "log.state", Does: "how the log stands: 0 stopped, 1 at work, 2 waiting, 3 full, 4 failing", Type: sysInt, Log: true},
	{Name: "log.count", Does: "values that the log has", Type: sysLong, Log: true},
	{Name: "log.size", Does: "size of the log, MB", Type: sysReal, Log: true},
	{Name: "log.free", Does: "share of the log's size or number that is free, %", Type: sysReal, Log: true},
	{Name: "log.exported", Does: "hours since the log was written out and verified; -1 for never", Type: sysReal, Log: true},
	{Name: "log.busy", Does: "the log is being written out", Type: sysBool, Log: true},
	{Name: "log.share", Does: "how much of the log is written out, %", Type: sysReal, Log: true},
	{Name: "log.failed", Does: "the log could not be written out the last time", Type: sysBool, Log: true},
	{Name: "log.folder", Does: "the folder that the log is written out to is there", Type: sysBool, Log: true},
	{Name: "log.room", Does: "room in that folder, MB", Type: sysReal, Log: true},
	{Name: "log.out", Does: "somebody has finished with its medium: it may be taken out", Type: sysBool, Log: true},
	{Name: "recipe.held", Does: "how many recipes the book has", Type: sysLong, Book: true},
	{Name: "recipe.runs", Does: "name of the recipe that was delivered here last", Type: sysText, Book: true, Target: true},
	{Name: "recipe.version", Does: "its version; 0 for none", Type: sysLong, Book: true, Target: true},
	{Name: "recipe.changed", Does: "fields of it that are otherwise here by now", Type: sysInt, Book: true, Target: true},
	{Name: "recipe.busy", Does: "a recipe is on its way here", Type: sysBool, Book: true, Target: true},
	{Name: "recipe.share", Does: "how much of it is done, %", Type: sysReal, Book: true, Target: true},
	{Name: "recipe.left", Does: "deliveries here that left something nobody has dealt with", Type: sysInt, Book: true, Target: true},
	{Name: "recipe.open", Does: "name of the recipe that is open at the desk that looks", Type: sysText, Own: true, Book: true},
	{Name: "recipe.openVersion", Does: "its version; 0 for one that is new", Type: sysLong, Own: true, Book: true},
	{Name: "recipe.openChanged", Does: "it is edited there and not saved", Type: sysBool, Own: true, Book: true},
	{Name: FieldOfRecipe, Does: "a field of it, which elements show and edit", Type: sysReal, Own: true, Book: true, Field: true},
	{Name: "links.down", Does: "how many devices are not connected", Type: sysInt},
	{Name: "deliveries.open", Does: "deliveries of recipes that left something nobody has dealt with", Type: sysLong},
	{Name: "desks", Does: "how many desks and workshops are open", Type: sysInt},
	{Name: "release", Does: "number of the release that runs", Type: sysLong},
	{Name: "backup.age", Does: "hours since the last backup of the server; -1 for never", Type: sysReal},
	{Name: "backup.failed", Does: "the last backup failed", Type: sysBool},
	{Name: "backup.size", Does: "size of the last backup, MB", Type: sysReal},
	{Name: "server.load", Does: "processor time of the server, % of one core", Type: sysReal},
	{Name: "server.memory", Does: "memory of the server, MB", Type: sysReal},
	{Name: "server.uptime", Does: "seconds since the server started", Type: sysLong, Time: true},
}

// SystemValueOf finds a system value by name.
func SystemValueOf(name string) (SystemValue, bool) {
	for _, s := range SystemValues {
		if s.Name == name {
			return s, true
		}
	}
	return SystemValue{}, false
}

// OfField tells whether the tag is a field of the recipe that is open.
func (t *Tag) OfField() bool { return t.Source == System && t.System == FieldOfRecipe }

// Enterable tells whether a person may enter it at a screen: what is writable, and
// what is an edit of the recipe that is open there.
func (t *Tag) Enterable() bool { return t.Writable() || t.OfField() }

// Own tells whether each viewer has a value of its own for the tag.
func (t *Tag) Own() bool {
	s, ok := SystemValueOf(t.System)
	return t.Source == System && ok && s.Own
}
