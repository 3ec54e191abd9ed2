package alarm

// Severity is how bad the consequence is that an alarm warns of.
type Severity string

// The severities.
const (
	Minor  Severity = "minor"  // quality or time is lost
	Major  Severity = "major"  // a load or equipment is lost
	Severe Severity = "severe" // people or the environment are harmed
)

// Severities lists them, the least first.
var Severities = []Severity{Minor, Major, Severe}

func (s Severity) rank() int {
	for i, x := range Severities {
		if x == s {
			return i
		}
	}
	return -1
}

// Minutes are the upper ends of the times to respond that the matrix tells
// apart; a longer time is the last of its columns.
var Minutes = []int{3, 10, 30}

// Matrix is the priority by severity and by the time to respond, the shortest
// first (ISA-18.2, clause on rationalization: priority by consequence and
// time).
var Matrix = map[Severity][]Priority{
	Severe: {Critical, Critical, High, Medium},
	Major:  {Critical, High, Medium, Low},
	Minor:  {High, Medium, Low, Low},
}

// Suggested is the priority that the matrix gives; ok is false where severity
// or time to respond are not given.
func (g Guidance) Suggested() (p Priority, ok bool) {
	row, ok := Matrix[g.Severity]
	if !ok || g.Respond <= 0 {
		return "", false
	}
	for i, most := range Minutes {
		if g.Respond <= most {
			return row[i], true
		}
	}
	return row[len(Minutes)], true
}
