package formula

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Format says how a placeholder shows its value. The zero Format is the tag's
// own: state name, decimals.
//
//	0  0.0  0.00   so many decimals
//	plain          the number as it is, thousands not parted
//	hex  hex4      base 16, at least so many digits
//	bin  bin8      base 2, at least so many digits
//	duration       seconds as h:mm:ss, from a day on with days before
//	date time moment   seconds since 1970-01-01 as a date, a time, or both
//	state          the state name; the number where it has none
type Format struct {
	Kind   string
	Digits int // decimals of a number, least digits of hex and bin
}

const (
	formatNumber   = "0"
	formatPlain    = "plain"
	formatHex      = "hex"
	formatBin      = "bin"
	formatDuration = "duration"
	formatDate     = "date"
	formatTime     = "time"
	formatMoment   = "moment"
	formatState    = "state"
)

// ParseFormat reads a format; the empty text is the tag's own.
func ParseFormat(s string) (Format, error) {
	switch s {
	case "":
		return Format{}, nil
	case formatPlain, formatDuration, formatDate, formatTime, formatMoment, formatState:
		return Format{Kind: s}, nil
	case "0":
		return Format{Kind: formatNumber}, nil
	}
	if rest, ok := strings.CutPrefix(s, "0."); ok && rest != "" && len(rest) <= 9 && strings.Trim(rest, "0") == "" {
		return Format{Kind: formatNumber, Digits: len(rest)}, nil
	}
	for _, base := range []string{formatHex, formatBin} {
		rest, ok := strings.CutPrefix(s, base)
		if !ok {
			continue
		}
		n, err := strconv.Atoi(rest)
		if rest == "" || err == nil && n > 0 && n <= 64 {
			return Format{Kind: base, Digits: n}, nil
		}
	}
	return Format{}, say.Errorf("a format is a pattern such as 0, 0.0 or 0.00, or one of plain, hex, hex4, bin, bin8, duration, date, time, moment, state")
}

// Append writes a value. show gives what the zero Format and state need.
// Times are those of the zone given.
func (f Format) Append(b []byte, v value.Value, show *tag.Tag, zone *time.Location) []byte {
	switch f.Kind {
	case "":
		return show.AppendShow(b, v, false)
	case formatState:
		return show.AppendShow(b, v, false)
	}
	if !v.Kind.IsNumber() && v.Kind != value.BOOL {
		return v.AppendText(b)
	}
	switch f.Kind {
	case formatNumber:
		return value.AppendFixed(b, v.Float(), f.Digits)
	case formatPlain:
		return v.AppendText(b)
	case formatHex:
		return appendBase(b, v, 16, f.Digits)
	case formatBin:
		return appendBase(b, v, 2, f.Digits)
	case formatDuration:
		return appendDuration(b, v.Float())
	}
	sec, frac := math.Modf(v.Float())
	if math.Abs(sec) > 1e11 {
		return append(b, "—"...)
	}
	at := time.Unix(int64(sec), int64(frac*1e9)).In(zone)
	layout := map[string]string{formatDate: "2006-01-02", formatTime: "15:04:05", formatMoment: "2006-01-02 15:04:05"}[f.Kind]
	return at.AppendFormat(b, layout)
}

// appendBase writes a whole number by its bits; a negative one as its type
// holds it.
func appendBase(b []byte, v value.Value, base, digits int) []byte {
	if v.Kind.IsReal() {
		f := math.Round(v.Float())
		if math.Abs(f) >= 1<<53 {
			return append(b, "—"...)
		}
		v = value.Int(value.LINT, int64(f))
	}
	bits := v.Bits()
	if n := v.Kind.Bits(); n > 0 && n < 64 {
		bits &= 1<<n - 1
	}
	s := strings.ToUpper(strconv.FormatUint(bits, base))
	for i := len(s); i < digits; i++ {
		b = append(b, '0')
	}
	return append(b, s...)
}

func appendDuration(b []byte, seconds float64) []byte {
	if seconds != seconds || math.Abs(seconds) > 1e12 {
		return append(b, "—"...)
	}
	n := int64(math.Round(seconds))
	if n < 0 {
		b, n = append(b, "−"...), -n
	}
	if days := n / 86400; days > 0 {
		b = strconv.AppendInt(b, days, 10)
		b = append(b, " d "...)
		n %= 86400
	}
	return fmt.Appendf(b, "%d:%02d:%02d", n/3600, n/60%60, n%60)
}
