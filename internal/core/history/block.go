package history

import (
	"encoding/binary"
	"math"

	"readyrail/internal/core/value"
)

// A block is a column as it is stored:
//
//	form      1 byte: how values are stored
//	kind      1 byte: a stored kind
//	unit      1 byte: of times, see units
//	count     varint
//	first     8 bytes: time of the first sample
//	times     count-1 differences to the sample before, packed, in units
//	qualities pairs of varint length and 1 byte stored quality
//	values    by form
//
// Packed numbers are those of Pack. Stored kinds and qualities have numbers of
// their own, which never change whatever is added in the program.

// MaxBlock bounds the samples of a block.
const MaxBlock = 4096

// Forms of values.
const (
	formPlain    = iota // the bits, packed
	formSteps           // the differences of the bits to those before, zigzag, packed
	formDecimals        // 1 byte decimals, then as steps: the numbers times ten to the power of them
	formFlips           // BOOL: whether it differs from the one before, packed
	formTexts           // varint number of texts, each with its varint length; then places, packed
)

// units of times, in nanoseconds; the coarsest that loses nothing is taken.
var units = []int64{int64(1e9), int64(1e8), int64(1e6), int64(1e3), 100, 1}

// storedKinds and storedQualities are the numbers that stand in files, by place.
// They are only ever added to.
var (
	storedKinds = []value.Kind{value.None, value.BOOL, value.SINT, value.INT, value.DINT, value.LINT, value.USINT, value.UINT, value.UDINT,
		value.ULINT, value.REAL, value.LREAL, value.STRING}
	storedQualities = []value.Quality{value.BadWaiting, value.BadConfig, value.BadNotConnected, value.BadNoAnswer, value.BadRefused,
		value.BadStale, value.BadRange, value.BadDivision, value.BadOverflow, value.BadInput, value.BadOff, value.BadResting,
		value.BadReported, value.BadGone, value.UncertainClamped, value.UncertainInput, value.UncertainDevice, value.Held, value.Good,
		value.BadUnrecorded}
	kindNumber    = numbersOf(storedKinds)
	qualityNumber = numbersOf(storedQualities)
)

func numbersOf[T ~uint8](list []T) (out [256]byte) {
	for i, x := range list {
		out[x] = byte(i)
	}
	return out
}

// StoredKind is the number of a kind in files; KindStored is its kind again.
func StoredKind(k value.Kind) int64 { return int64(kindNumber[k]) }

// KindStored is the kind of a number in files; None for one that is unknown.
func KindStored(n int64) value.Kind {
	if n < 0 || n >= int64(len(storedKinds)) {
		return value.None
	}
	return storedKinds[n]
}

// StoredQuality is the number of a quality in files.
func StoredQuality(q value.Quality) int64 { return int64(qualityNumber[q]) }

// QualityStored is the quality of a number in files; one that is unknown is bad.
func QualityStored(n int64) value.Quality {
	if n < 0 || n >= int64(len(storedQualities)) {
		return value.BadReported
	}
	return storedQualities[n]
}

// Coder turns columns into blocks and back, with room of its own; one goroutine
// uses it at a time.
type Coder struct{ a, b []uint64 }

func grown(list []uint64, n int) []uint64 {
	if cap(list) < n {
		return make([]uint64, n)
	}
	return list[:n]
}

// Encode appends a column as a block; it has 1 to MaxBlock samples.
func (k *Coder) Encode(out []byte, c *Column) []byte {
	n := c.Len()
	at := len(out)
	unit := unitOf(c.At)
	out = append(out, 0, kindNumber[c.Kind], byte(unit))
	out = binary.AppendUvarint(out, uint64(n))
	out = binary.LittleEndian.AppendUint64(out, uint64(c.At[0]))
	k.a = grown(k.a, n)
	for i := 1; i < n; i++ {
		k.a[i-1] = uint64((c.At[i] - c.At[i-1]) / units[unit])
	}
	out = Pack(out, k.a[:n-1])
	for i := 0; i < n; {
		j := i + 1
		for j < n && c.Qualities[j] == c.Qualities[i] {
			j++
		}
		out = append(binary.AppendUvarint(out, uint64(j-i)), qualityNumber[c.Qualities[i]])
		i = j
	}
	out, form := k.encodeValues(out, c)
	out[at] = form
	return out
}

// unitOf is the coarsest unit that all differences are whole in.
func unitOf(at []int64) int {
	unit := 0
	for i := 1; i < len(at); i++ {
		for (at[i]-at[i-1])%units[unit] != 0 {
			unit++
		}
	}
	return unit
}

func (k *Coder) encodeValues(out []byte, c *Column) (_ []byte, form byte) {
	n := c.Len()
	switch {
	case c.Kind == value.STRING:
		out = binary.AppendUvarint(out, uint64(len(c.Texts)))
		for _, s := range c.Texts {
			out = append(binary.AppendUvarint(out, uint64(len(s))), s...)
		}
		return Pack(out, c.Bits), formTexts
	case c.Kind == value.BOOL:
		before := uint64(0)
		for i, v := range c.Bits {
			k.a[i], before = v^before, v
		}
		return Pack(out, k.a[:n]), formFlips
	case c.Kind.IsReal():
		if d, ok := k.decimals(c); ok {
			return k.steps(append(out, byte(d))), formDecimals
		}
		k.b = grown(k.b, n)
		for i, v := range c.Bits {
			k.b[i] = ordered(c.Kind, v)
		}
	default:
		k.b = append(k.b[:0], c.Bits...)
	}
	// What jumps about is smaller plain, what drifts as steps.
	plain := Pack(out, k.b)
	if stepped := k.steps(append([]byte{}, out...)); len(stepped) < len(plain) {
		return stepped, formSteps
	}
	return plain, formPlain
}

// steps packs what is in b as differences.
func (k *Coder) steps(out []byte) []byte {
	k.a = grown(k.a, len(k.b))
	before := uint64(0)
	for i, v := range k.b {
		k.a[i], before = zigzag(v-before), v
	}
	// The first is far from zero, and would spoil its frame.
	out = binary.AppendUvarint(out, k.a[0])
	return Pack(out, k.a[1:])
}

func zigzag(d uint64) uint64   { return d<<1 ^ uint64(int64(d)>>63) }
func unzigzag(z uint64) uint64 { return z>>1 ^ -(z & 1) }

// most decimals that are looked for, and the largest number that is still exact.
const (
	mostDecimals = 6
	mostWhole    = 1 << 50
)

var powers = [mostDecimals + 1]float64{1, 10, 100, 1e3, 1e4, 1e5, 1e6}

// decimals puts numbers into b as whole ones, where a few decimals tell them
// exactly.
func (k *Coder) decimals(c *Column) (d int, ok bool) {
	k.b = grown(k.b, c.Len())
	for i := 0; i < c.Len(); {
		whole, exact := wholeOf(c.Kind, c.Bits[i], d)
		if !exact {
			if d++; d > mostDecimals {
				return 0, false
			}
			i = 0
			continue
		}
		k.b[i] = uint64(whole)
		i++
	}
	return d, true
}

// wholeOf is a number times ten to the power of d, exact where it comes back.
func wholeOf(kind value.Kind, b uint64, d int) (int64, bool) {
	f := math.Float64frombits(b)
	w := math.Round(f * powers[d])
	if !(math.Abs(w) < mostWhole) {
		return 0, false
	}
	return int64(w), fromWhole(kind, int64(w), d) == b
}

func fromWhole(kind value.Kind, w int64, d int) uint64 {
	f := float64(w) / powers[d]
	if kind == value.REAL {
		f = float64(float32(f))
	}
	return math.Float64bits(f)
}

// ordered turns the bits of a real number into ones that are near where numbers
// are near; those of a REAL are 32.
func ordered(kind value.Kind, b uint64) uint64 {
	if kind == value.REAL {
		s := math.Float32bits(float32(math.Float64frombits(b)))
		return uint64(s ^ uint32(int32(s)>>31)&0x7fffffff ^ 1<<31)
	}
	return b ^ uint64(int64(b)>>63)&(1<<63-1) ^ 1<<63
}

func unordered(kind value.Kind, o uint64) uint64 {
	if kind == value.REAL {
		s := uint32(o) ^ 1<<31
		s ^= uint32(int32(s)>>31) & 0x7fffffff
		return math.Float64bits(float64(math.Float32frombits(s)))
	}
	o ^= 1 << 63
	return o ^ uint64(int64(o)>>63)&(1<<63-1)
}

// Decode appends the samples of a block to a column, which is empty or of the
// same kind. What is damaged is refused, and the column left as it was.
func (k *Coder) Decode(in []byte, c *Column) error {
	if len(in) < 4 || in[0] > formTexts || KindStored(int64(in[1])) == value.None || int(in[2]) >= len(units) {
		return errDamaged
	}
	form, kind, unit := in[0], storedKinds[in[1]], units[in[2]]
	count, size := binary.Uvarint(in[3:])
	if in = in[3+max(size, 0):]; size <= 0 || count == 0 || count > MaxBlock || len(in) < 8 {
		return errDamaged
	}
	n, at := int(count), int64(binary.LittleEndian.Uint64(in))
	part := Column{Kind: kind, At: make([]int64, n), Bits: make([]uint64, n), Qualities: make([]value.Quality, n)}
	k.a = grown(k.a, n)
	in, err := Unpack(in[8:], k.a[:n-1])
	if err != nil {
		return err
	}
	part.At[0] = at
	for i := 1; i < n; i++ {
		at += int64(k.a[i-1]) * unit
		if at <= part.At[i-1] {
			return errDamaged
		}
		part.At[i] = at
	}
	for i := 0; i < n; {
		length, size := binary.Uvarint(in)
		if size <= 0 || len(in) <= size || length == 0 || length > uint64(n-i) || int(in[size]) >= len(storedQualities) {
			return errDamaged
		}
		q := storedQualities[in[size]]
		for range length {
			part.Qualities[i] = q
			i++
		}
		in = in[size+1:]
	}
	if err := k.decodeValues(in, form, &part); err != nil {
		return err
	}
	if c.Len() == 0 {
		*c = part
		return nil
	}
	c.Add(&part, 0, n)
	return nil
}

func (k *Coder) decodeValues(in []byte, form byte, c *Column) (err error) {
	decimals := 0
	switch form {
	case formTexts:
		if in, err = readTexts(in, c); err != nil {
			return err
		}
		if _, err = Unpack(in, c.Bits); err != nil {
			return err
		}
		for i, place := range c.Bits {
			if !c.Qualities[i].IsBad() && place >= uint64(len(c.Texts)) {
				return errDamaged
			}
		}
		return nil
	case formFlips, formPlain:
		_, err = Unpack(in, c.Bits)
	case formDecimals:
		if len(in) == 0 || in[0] > mostDecimals {
			return errDamaged
		}
		decimals, in = int(in[0]), in[1:]
		err = unstep(in, c.Bits)
	case formSteps:
		err = unstep(in, c.Bits)
	}
	if err != nil {
		return err
	}
	for i, v := range c.Bits {
		switch {
		case form == formFlips && i > 0:
			c.Bits[i] = v ^ c.Bits[i-1]
		case form == formDecimals:
			c.Bits[i] = fromWhole(c.Kind, int64(v), decimals)
		case c.Kind.IsReal():
			c.Bits[i] = unordered(c.Kind, v)
		}
	}
	return nil
}

func unstep(in []byte, list []uint64) error {
	first, size := binary.Uvarint(in)
	if size <= 0 {
		return errDamaged
	}
	list[0] = first
	if _, err := Unpack(in[size:], list[1:]); err != nil {
		return err
	}
	before := uint64(0)
	for i, z := range list {
		before += unzigzag(z)
		list[i] = before
	}
	return nil
}

// longestText bounds what is believed of a stored length.
const longestText = 1 << 20

func readTexts(in []byte, c *Column) ([]byte, error) {
	count, size := binary.Uvarint(in)
	if size <= 0 || count > MaxBlock {
		return nil, errDamaged
	}
	in = in[size:]
	for range count {
		length, size := binary.Uvarint(in)
		if size <= 0 || length > longestText || uint64(len(in)-size) < length {
			return nil, errDamaged
		}
		c.Texts = append(c.Texts, string(in[size:size+int(length)]))
		in = in[size+int(length):]
	}
	return in, nil
}

// FirstOf is the time of a block's first sample; 0 for what is no block.
func FirstOf(block []byte) int64 {
	if len(block) < 4 {
		return 0
	}
	_, size := binary.Uvarint(block[3:])
	if size <= 0 || len(block) < 3+size+8 {
		return 0
	}
	return int64(binary.LittleEndian.Uint64(block[3+size:]))
}

// CountOf is how many samples a block has; 0 for what is no block.
func CountOf(block []byte) int {
	if FirstOf(block) == 0 {
		return 0
	}
	n, _ := binary.Uvarint(block[3:])
	return int(n)
}
