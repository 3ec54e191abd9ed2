package device

import (
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Step moves a register address by n: registers or, for single bits, bits, so
// that holding:40.15 by 1 is holding:41.0. Addresses of other protocols have
// no next one and are refused.
func (d *Device) Step(address string, t value.Type, n int) (string, error) {
	if n == 0 {
		return address, nil
	}
	if d.Protocol != ModbusTCP {
		return "", say.Errorf("%s: only register addresses have a next one; use {1} where the number stands in the address", address)
	}
	a, err := ParseAddress(address)
	if err != nil {
		return "", err
	}
	at := int(a.Offset) + n
	if a.Bit >= 0 {
		bits := 16*int(a.Offset) + int(a.Bit) + n
		if at = bits >> 4; bits >= 0 {
			a.Bit = int8(bits & 15)
		}
	}
	if at < 0 || at > 65535 {
		return "", say.Errorf("%s moved by %d leaves 0 to 65535", address, n)
	}
	a.Offset = uint16(at)
	return a.String(), a.Fit(t)
}

// Move moves a register address by whole registers, so that a bit stays the bit
// that it is, and by bits, of which coils and discrete inputs are made.
func (d *Device) Move(address string, t value.Type, registers, bits int) (string, error) {
	if d.Protocol != ModbusTCP {
		return d.Step(address, t, registers+bits)
	}
	a, err := ParseAddress(address)
	if err != nil {
		return "", err
	}
	if a.Space.IsBits() {
		return d.Step(address, t, bits)
	}
	if a.Bit < 0 {
		return d.Step(address, t, registers)
	}
	return d.Step(address, t, 16*registers+bits)
}

// StepOf is the usual step from one value of a type to the next beside it.
func StepOf(address string, t value.Type) int {
	if a, err := ParseAddress(address); err == nil && (a.Space.IsBits() || a.Bit >= 0) {
		return 1
	}
	return Registers(t)
}
