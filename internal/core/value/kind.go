// Package value holds what every tag carries: a typed value with its quality
// and its time. A Value is small, comparable with == and copied without
// allocating, so that the engine can hold tens of thousands in one table.
package value

import (
	"fmt"
	"readyrail/internal/core/say"
	"strconv"
	"strings"
)

// Kind is an elementary data type of IEC 61131-3 (3rd edition, table 10).
type Kind uint8

// The kinds that a tag can have.
const (
	None Kind = iota
	BOOL
	SINT
	USINT
	INT
	UINT
	DINT
	UDINT
	LINT
	ULINT
	REAL
	LREAL
	STRING
)

var kindNames = [...]string{"", "BOOL", "SINT", "USINT", "INT", "UINT", "DINT", "UDINT", "LINT", "ULINT", "REAL", "LREAL", "STRING"}

// String returns the name by which IEC 61131-3 calls the kind.
func (k Kind) String() string {
	if int(k) < len(kindNames) {
		return kindNames[k]
	}
	return fmt.Sprintf("Kind(%d)", k)
}

// Bits is the width of the kind on the wire, 0 for STRING.
func (k Kind) Bits() int {
	switch k {
	case BOOL:
		return 1
	case SINT, USINT:
		return 8
	case INT, UINT:
		return 16
	case DINT, UDINT, REAL:
		return 32
	case LINT, ULINT, LREAL:
		return 64
	}
	return 0
}

// IsInteger tells whether the kind counts in whole numbers; BOOL does not.
func (k Kind) IsInteger() bool { return k >= SINT && k <= ULINT }

// IsReal tells whether the kind is a floating-point number.
func (k Kind) IsReal() bool { return k == REAL || k == LREAL }

// IsNumber tells whether arithmetic is defined on the kind.
func (k Kind) IsNumber() bool { return k >= SINT && k <= LREAL }

// IsUnsigned tells whether the kind has no negative values.
func (k Kind) IsUnsigned() bool {
	return k == USINT || k == UINT || k == UDINT || k == ULINT
}

// IntRange returns the smallest and largest number that an integer kind holds.
// The upper end is unsigned because ULINT reaches 2^64-1.
func (k Kind) IntRange() (low int64, high uint64) {
	n := k.Bits()
	if k.IsUnsigned() {
		if n == 64 {
			return 0, 1<<64 - 1
		}
		return 0, 1<<n - 1
	}
	return -1 << (n - 1), 1<<(n-1) - 1
}

// MaxString is the longest STRING(n), in bytes, that a tag may have.
const MaxString = 250

// Type is a kind with, for STRING, its length in bytes. Its text form is the
// one of IEC 61131-3: "REAL", "STRING(16)".
type Type struct {
	Kind Kind
	Len  int
}

// ParseType reads the text form in any case. A STRING without a length has 80
// bytes, as in IEC 61131-3, 6.3.3.
func ParseType(s string) (Type, error) {
	t := strings.ToUpper(strings.TrimSpace(s))
	if name, rest, ok := strings.Cut(t, "("); ok {
		n, err := strconv.Atoi(strings.TrimSuffix(rest, ")"))
		if name != "STRING" || !strings.HasSuffix(rest, ")") || err != nil {
			return Type{}, say.Errorf("type %q is not known: only STRING takes a length, as in STRING(16)", s)
		}
		if n < 1 || n > MaxString {
			return Type{}, say.Errorf("type %q: a STRING has 1 to %d bytes", s, MaxString)
		}
		return Type{Kind: STRING, Len: n}, nil
	}
	for k, name := range kindNames {
		if name != "" && name == t {
			if Kind(k) == STRING {
				return Type{Kind: STRING, Len: 80}, nil
			}
			return Type{Kind: Kind(k)}, nil
		}
	}
	return Type{}, say.Errorf("type %q is not known: use one of %s, STRING(n)", s, strings.Join(kindNames[1:12], ", "))
}

// String returns the text form.
func (t Type) String() string {
	if t.Kind == STRING {
		return fmt.Sprintf("STRING(%d)", t.Len)
	}
	return t.Kind.String()
}

// MarshalText writes the text form.
func (t Type) MarshalText() ([]byte, error) { return []byte(t.String()), nil }

// UnmarshalText reads the text form.
func (t *Type) UnmarshalText(b []byte) error {
	v, err := ParseType(string(b))
	if err == nil {
		*t = v
	}
	return err
}
