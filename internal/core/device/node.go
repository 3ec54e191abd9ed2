package device

import (
	"readyrail/internal/core/say"
	"strconv"
	"strings"
)

// Policies and Modes are the security settings of OPC UA that are offered
// (IEC 62541-7), strongest last.
var (
	Policies = []string{"None", "Basic256Sha256", "Aes128_Sha256_RsaOaep", "Aes256_Sha256_RsaPss"}
	Modes    = []string{"none", "sign", "encrypt"}
)

func (d *Device) policy() string {
	if d.Security == "" {
		return "None"
	}
	return d.Security
}

func (d *Device) mode() string {
	if d.Mode == "" {
		return "none"
	}
	return d.Mode
}

// Policy and SecurityMode are the settings with their defaults filled in.
func (d *Device) Policy() string { return d.policy() }

// SecurityMode is "none", "sign" or "encrypt".
func (d *Device) SecurityMode() string { return d.mode() }

// Node is an address in an OPC UA server: a node id in the text form of
// IEC 62541-6, 5.3.1.10, and behind a | the way into its value, as in
//
//	ns=2;s=Meter.Power
//	ns=3;i=1042|Batch.Weights[2]
type Node struct {
	ID   string
	Path string // members and indices, empty for the whole value
}

// ParseNode reads the text form.
func ParseNode(s string) (Node, error) {
	s = strings.TrimSpace(s)
	id, path, has := strings.Cut(s, "|")
	n := Node{ID: id, Path: path}
	rest := id
	if strings.HasPrefix(rest, "ns=") {
		ns, after, ok := strings.Cut(rest[3:], ";")
		v, err := strconv.ParseUint(ns, 10, 16)
		if !ok || err != nil || v > 65535 {
			return n, say.Errorf("address %q: write the node id as ns=2;s=Name or ns=2;i=1042", s)
		}
		rest = after
	}
	if len(rest) < 3 || rest[1] != '=' || !strings.ContainsRune("isgb", rune(rest[0])) {
		return n, say.Errorf("address %q: write the node id as ns=2;s=Name or ns=2;i=1042", s)
	}
	if rest[0] == 'i' {
		if _, err := strconv.ParseUint(rest[2:], 10, 32); err != nil {
			return n, say.Errorf("address %q: %q is not a whole number", s, rest[2:])
		}
	}
	if len(s) > 1000 {
		return n, say.New("an address has at most 1000 characters")
	}
	if has {
		if _, err := SplitMembers(path); err != nil {
			return n, say.Errorf("address %q: %w", s, err)
		}
	}
	return n, nil
}

// Member is one step into a value: a member's name, or an index.
type Member struct {
	Name  string // empty for an index
	Index int
}

// SplitMembers reads a way into a value, such as Batch.Weights[2] or [3].
func SplitMembers(path string) ([]Member, error) {
	var out []Member
	for rest := path; rest != ""; {
		switch rest[0] {
		case '[':
			text, after, ok := strings.Cut(rest[1:], "]")
			n, err := strconv.Atoi(text)
			if !ok || err != nil || n < 0 {
				return nil, say.Errorf("%q: an index is a whole number in brackets", path)
			}
			out, rest = append(out, Member{Index: n}), after
		case '.':
			if len(out) == 0 {
				return nil, say.Errorf("%q begins with a dot", path)
			}
			rest = rest[1:]
			if rest == "" || rest[0] == '.' || rest[0] == '[' {
				return nil, say.Errorf("%q: a member's name stands behind a dot", path)
			}
		default:
			end := strings.IndexAny(rest, ".[")
			if end < 0 {
				end = len(rest)
			}
			out, rest = append(out, Member{Name: rest[:end]}), rest[end:]
		}
	}
	if len(out) == 0 {
		return nil, say.New("the way behind | is empty")
	}
	return out, nil
}
