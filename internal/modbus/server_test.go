package modbus

import (
	"bytes"
	"testing"
)

// shelf is a device with 100 bits and 100 registers.
type shelf struct {
	bits [100]bool
	regs [100]uint16
}

func (s *shelf) ReadBits(_ byte, _ byte, start uint16, bits []bool) error {
	if int(start)+len(bits) > len(s.bits) {
		return IllegalAddress
	}
	copy(bits, s.bits[start:])
	return nil
}

func (s *shelf) ReadRegisters(_ byte, _ byte, start uint16, regs []uint16) error {
	if int(start)+len(regs) > len(s.regs) {
		return IllegalAddress
	}
	copy(regs, s.regs[start:])
	return nil
}

func (s *shelf) WriteBits(_ byte, start uint16, bits []bool) error {
	if int(start)+len(bits) > len(s.bits) {
		return IllegalAddress
	}
	copy(s.bits[start:], bits)
	return nil
}

func (s *shelf) WriteRegisters(_ byte, start uint16, regs []uint16) error {
	if int(start)+len(regs) > len(s.regs) {
		return IllegalAddress
	}
	copy(s.regs[start:], regs)
	return nil
}

// What a device answers, in the order of the protocol's chapters; each step
// finds what those before it wrote.
func TestAnswersOfADevice(t *testing.T) {
	s := &shelf{}
	for _, c := range []struct{ does, ask, answer string }{
		{"coil on", "05 0003 FF00", "05 0003 FF00"},
		{"coil neither on nor off", "05 0003 1234", "85 03"},
		{"register", "06 0004 0012", "06 0004 0012"},
		{"mask write of 6.16", "16 0004 00F2 0025", "16 0004 00F2 0025"},
		{"its result of 6.16", "03 0004 0001", "03 02 0017"},
		{"coils", "0F 0008 000A 02 CD01", "0F 0008 000A"},
		{"coils read back", "01 0003 000F", "01 02 A1 39"},
		{"registers", "10 000A 0002 04 000A 0102", "10 000A 0002"},
		{"written, then read", "17 000A 0003 000B 0001 02 00FF", "17 06 000A 00FF 0000"},
		{"input registers", "04 000A 0001", "04 02 000A"},
		{"discrete inputs", "02 0003 0001", "02 01 01"},
		{"beyond the end", "03 0063 0002", "83 02"},
		{"mask beyond the end", "16 0064 FFFF 0000", "96 02"},
		{"nothing asked for", "03 0000 0000", "83 03"},
		{"126 registers", "03 0000 007E", "83 03"},
		{"2001 bits", "01 0000 07D1", "81 03"},
		{"over the last address", "03 FFFF 0002", "83 03"},
		{"count of bytes lies", "10 0000 0002 03 000A 0102", "90 03"},
		{"coils without their bytes", "0F 0000 000A 02 CD", "8F 03"},
		{"122 registers written with 23", "17 0000 0001 0000 007A F4", "97 03"},
		{"short", "03 00", "83 03"},
		{"short mask", "16 0004 00F2", "96 03"},
		{"another function", "2B 0E 01 00 00", "AB 01"},
	} {
		if got := Answer(s, 1, unhex(c.ask)); !bytes.Equal(got, unhex(c.answer)) {
			t.Errorf("%s: % X, want %s", c.does, got, c.answer)
		}
	}
}
