package modbus

import (
	"bytes"
	"encoding/hex"
	"errors"
	"math"
	"strings"
	"testing"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
)

func unhex(s string) []byte {
	b, err := hex.DecodeString(strings.ReplaceAll(s, " ", ""))
	if err != nil {
		panic(err)
	}
	return b
}

// The examples of the Modbus Application Protocol 1.1b3, 6.1 to 6.17.
func TestSpecificationRequests(t *testing.T) {
	for name, c := range map[string]struct {
		got  []byte
		want string
	}{
		"6.1 read coils":             {AppendRead(nil, ReadCoils, 0x13, 0x13), "01 0013 0013"},
		"6.2 read discrete inputs":   {AppendRead(nil, ReadDiscreteInputs, 0xC4, 0x16), "02 00C4 0016"},
		"6.3 read holding registers": {AppendRead(nil, ReadHolding, 0x6B, 3), "03 006B 0003"},
		"6.4 read input registers":   {AppendRead(nil, ReadInput, 8, 1), "04 0008 0001"},
		"6.5 write single coil":      {AppendWriteCoil(nil, 0xAC, true), "05 00AC FF00"},
		"6.6 write single register":  {AppendWriteRegister(nil, 1, 3), "06 0001 0003"},
		"6.11 write multiple coils": {AppendWriteCoils(nil, 0x13, []bool{true, false, true, true, false, false, true, true, true, false}),
			"0F 0013 000A 02 CD01"},
		"6.12 write multiple registers": {AppendWriteRegisters(nil, 1, []uint16{0x000A, 0x0102}), "10 0001 0002 04 000A 0102"},
		"6.16 mask write register":      {AppendMaskWrite(nil, 4, 0x00F2, 0x0025), "16 0004 00F2 0025"},
		"6.17 read/write registers":     {AppendReadWrite(nil, 3, 6, 14, []uint16{0xFF, 0xFF, 0xFF}), "17 0003 0006 000E 0003 06 00FF 00FF 00FF"},
	} {
		if !bytes.Equal(c.got, unhex(c.want)) {
			t.Errorf("%s: % X, want %s", name, c.got, c.want)
		}
	}
}

func TestSpecificationAnswers(t *testing.T) {
	bits := make([]bool, 0x13)
	if err := ParseBits(unhex("01 03 CD 6B 05"), ReadCoils, bits); err != nil {
		t.Fatal(err)
	}
	// 6.1: outputs 27-20 are CD, 35-28 are 6B, 38-36 are 05.
	if got := show(bits); got != "1011001111010110101" {
		t.Errorf("coils 20 to 38: %s", got)
	}
	regs := make([]uint16, 3)
	if err := ParseRegisters(unhex("03 06 022B 0000 0064"), ReadHolding, regs); err != nil || regs[0] != 555 || regs[1] != 0 ||
		regs[2] != 100 {
		t.Errorf("6.3: %v, %v", regs, err)
	}
	one := make([]uint16, 1)
	if err := ParseRegisters(unhex("04 02 000A"), ReadInput, one); err != nil || one[0] != 10 {
		t.Errorf("6.4: %v, %v", one, err)
	}
	if err := ParseWritten(unhex("10 0001 0002"), unhex("10 0001 0002 04 000A 0102")); err != nil {
		t.Errorf("6.12: %v", err)
	}
	if err := ParseWritten(unhex("16 0004 00F2 0025"), unhex("16 0004 00F2 0025")); err != nil {
		t.Errorf("6.16: %v", err)
	}
	six := make([]uint16, 6)
	if err := ParseRegisters(unhex("17 0C 00FE 0ACD 0001 0003 000D 00FF"), ReadWrite, six); err != nil || six[0] != 0xFE || six[5] != 0xFF {
		t.Errorf("6.17: %v, %v", six, err)
	}
}

func show(bits []bool) string {
	var b strings.Builder
	for _, x := range bits {
		b.WriteByte("01"[map[bool]int{false: 0, true: 1}[x]])
	}
	return b.String()
}

func TestWrongAnswersAreRefused(t *testing.T) {
	regs := make([]uint16, 1)
	for name, c := range map[string]struct {
		pdu  string
		want any
	}{
		"exception":      {"83 02", IllegalAddress},
		"empty":          {"", Malformed("")},
		"other function": {"04 02 000A", Malformed("")},
		"short":          {"03 02 00", Malformed("")},
		"count lies":     {"03 04 000A", Malformed("")},
		"long exception": {"83 02 02", Malformed("")},
	} {
		err := ParseRegisters(unhex(c.pdu), ReadHolding, regs)
		switch want := c.want.(type) {
		case Exception:
			if !errors.Is(err, want) {
				t.Errorf("%s: %v", name, err)
			}
		default:
			var m Malformed
			if !errors.As(err, &m) {
				t.Errorf("%s: %v", name, err)
			}
		}
	}
}

func TestFrame(t *testing.T) {
	// Modbus Messaging on TCP/IP 1.0b, 3.1.3: transaction 0x1501, unit 0xFF.
	frame := AppendFrame(nil, Header{0x1501, 0xFF}, unhex("03 0004 0001"))
	if !bytes.Equal(frame, unhex("1501 0000 0006 FF 03 0004 0001")) {
		t.Errorf("% X", frame)
	}
	h, pdu, err := ReadFrame(bytes.NewReader(frame), make([]byte, MaxPDU))
	if err != nil || h != (Header{0x1501, 0xFF}) || !bytes.Equal(pdu, unhex("03 0004 0001")) {
		t.Errorf("%v % X %v", h, pdu, err)
	}
	for _, bad := range []string{"1501 0001 0006 FF 03 0004 0001", "1501 0000 0001 FF", "1501 0000 00FF FF 03"} {
		var m Malformed
		if _, _, err := ReadFrame(bytes.NewReader(unhex(bad)), make([]byte, MaxPDU)); !errors.As(err, &m) {
			t.Errorf("%s: %v", bad, err)
		}
	}
}

func FuzzFrame(f *testing.F) {
	f.Add(unhex("1501 0000 0006 FF 03 0004 0001"))
	f.Add([]byte("GET / HTTP/1.0\r\n\r\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		if _, pdu, err := ReadFrame(bytes.NewReader(b), make([]byte, MaxPDU)); err == nil && len(pdu) > 0 {
			Answer(memory{}, 1, pdu)
		}
	})
}

type memory struct{}

func (memory) ReadBits(byte, byte, uint16, []bool) error        { return nil }
func (memory) ReadRegisters(byte, byte, uint16, []uint16) error { return nil }
func (memory) WriteBits(byte, uint16, []bool) error             { return nil }
func (memory) WriteRegisters(byte, uint16, []uint16) error      { return nil }

func TestAnswerChecksItsRequest(t *testing.T) {
	for _, c := range []struct{ request, want string }{
		{"03 0000 0000", "83 03"}, {"03 0000 007E", "83 03"}, {"03 FFFF 0002", "83 03"}, {"01 0000 07D1", "81 03"},
		{"05 0000 0001", "85 03"}, {"0F 0000 0008 02 FF FF", "8F 03"}, {"10 0000 0001 02 00", "90 03"},
		{"2B 0E 01 00 00", "AB 01"}, {"03 00", "83 03"}, {"06 0001 0003", "06 0001 0003"},
	} {
		if got := Answer(memory{}, 1, unhex(c.request)); !bytes.Equal(got, unhex(c.want)) {
			t.Errorf("%s: % X, want %s", c.request, got, c.want)
		}
	}
}

func typ(s string) value.Type {
	v, err := value.ParseType(s)
	if err != nil {
		panic(err)
	}
	return v
}

func TestCodec(t *testing.T) {
	// 123456.0 as IEEE 754 single is 47F1 2000; 0x01020304 is 16909060.
	for _, c := range []struct {
		typ  string
		o    device.Order
		regs []uint16
		text string
	}{
		{"INT", device.ABCD, []uint16{0xFFFE}, "-2"}, {"UINT", device.ABCD, []uint16{0xFFFE}, "65534"},
		{"INT", device.BADC, []uint16{0xFEFF}, "-2"},
		{"SINT", device.ABCD, []uint16{0x00FE}, "-2"}, {"USINT", device.ABCD, []uint16{0x00FE}, "254"},
		{"DINT", device.ABCD, []uint16{0x0102, 0x0304}, "16909060"}, {"DINT", device.CDAB, []uint16{0x0304, 0x0102}, "16909060"},
		{"DINT", device.BADC, []uint16{0x0201, 0x0403}, "16909060"}, {"DINT", device.DCBA, []uint16{0x0403, 0x0201}, "16909060"},
		{"DINT", device.ABCD, []uint16{0xFFFF, 0xFFFE}, "-2"}, {"UDINT", device.ABCD, []uint16{0xFFFF, 0xFFFE}, "4294967294"},
		{"REAL", device.ABCD, []uint16{0x47F1, 0x2000}, "123456"}, {"REAL", device.CDAB, []uint16{0x2000, 0x47F1}, "123456"},
		{"LREAL", device.ABCD, []uint16{0x4009, 0x21FB, 0x5444, 0x2D18}, "3.141592653589793"},
		{"LREAL", device.CDAB, []uint16{0x2D18, 0x5444, 0x21FB, 0x4009}, "3.141592653589793"},
		{"LINT", device.ABCD, []uint16{0xFFFF, 0xFFFF, 0xFFFF, 0xFFFE}, "-2"},
		{"ULINT", device.ABCD, []uint16{0xFFFF, 0xFFFF, 0xFFFF, 0xFFFF}, "18446744073709551615"},
		{"STRING(5)", device.ABCD, []uint16{0x4C61, 0x7263, 0x6800}, "Larch"},
		{"STRING(5)", device.BADC, []uint16{0x614C, 0x6372, 0x0068}, "Larch"},
		{"STRING(6)", device.ABCD, []uint16{0x4F61, 0x6B00, 0x0000}, "Oak"},
	} {
		v := Decode(c.regs, typ(c.typ), 0, c.o)
		if v.Text() != c.text || v.Quality != value.Good {
			t.Errorf("%s %s of %04X: %q, want %q", c.typ, c.o, c.regs, v.Text(), c.text)
		}
		back, err := Encode(v, typ(c.typ), c.o)
		if err != nil {
			t.Errorf("%s: %v", c.typ, err)
			continue
		}
		for i := range back {
			if back[i] != c.regs[i] {
				t.Errorf("%s %s: %q encodes as %04X, want %04X", c.typ, c.o, c.text, back, c.regs)
				break
			}
		}
	}
	if v := Decode([]uint16{0b1000}, typ("BOOL"), 3, device.ABCD); !v.Bool() {
		t.Error("bit 3")
	}
	nan := uint32(math.Float32bits(float32(math.NaN())))
	if v := Decode([]uint16{uint16(nan >> 16), uint16(nan)}, typ("REAL"), 0, device.ABCD); v.Quality != value.BadRange {
		t.Errorf("a NaN has quality %v", v.Quality)
	}
}
