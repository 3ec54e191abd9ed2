// Package modbus holds the protocol data units of the Modbus Application
// Protocol 1.1b3 and the framing of Modbus Messaging on TCP/IP 1.0b. Driver
// and stand-in plant both use it.
package modbus

import (
	"encoding/binary"
	"fmt"
)

// Function codes (Modbus Application Protocol 1.1b3, 6).
const (
	ReadCoils          = 1
	ReadDiscreteInputs = 2
	ReadHolding        = 3
	ReadInput          = 4
	WriteCoil          = 5
	WriteRegister      = 6
	WriteCoils         = 15
	WriteRegisters     = 16
	MaskWrite          = 22
	ReadWrite          = 23
)

// Limits of one request (6.1, 6.3, 6.11, 6.12, 6.17).
const (
	MaxReadBits       = 2000
	MaxReadRegisters  = 125
	MaxWriteBits      = 1968
	MaxWriteRegisters = 123
	MaxReadWrite      = 121 // registers written by function 23
)

// Exception is an exception code (Modbus Application Protocol 1.1b3, 7).
type Exception byte

// The exception codes.
const (
	IllegalFunction Exception = 1
	IllegalAddress  Exception = 2
	IllegalValue    Exception = 3
	DeviceFailure   Exception = 4
	Acknowledge     Exception = 5
	DeviceBusy      Exception = 6
	ParityError     Exception = 8
	GatewayPath     Exception = 10
	GatewayTarget   Exception = 11
)

// Error says in plain words what the device answered.
func (e Exception) Error() string {
	text := map[Exception]string{
		IllegalFunction: "the device does not know this function",
		IllegalAddress:  "the device has no such address",
		IllegalValue:    "the device refuses this count or value",
		DeviceFailure:   "the device failed while it answered",
		Acknowledge:     "the device has taken the request but is not done",
		DeviceBusy:      "the device is busy",
		ParityError:     "the device found its memory damaged",
		GatewayPath:     "the gateway has no path to this unit",
		GatewayTarget:   "no unit with this id answers behind the gateway",
	}[e]
	if text == "" {
		text = "the device answered with an exception that the protocol does not name"
	}
	return fmt.Sprintf("%s (exception %d)", text, byte(e))
}

// Answered marks an exception as an answer: the far side is alive.
func (e Exception) Answered() bool { return true }

// Malformed is a PDU that the protocol does not allow.
type Malformed string

func (m Malformed) Error() string { return "not a Modbus answer: " + string(m) }

// AppendRead appends a read request: function 1, 2, 3 or 4.
func AppendRead(b []byte, function byte, start uint16, count int) []byte {
	b = append(b, function)
	b = binary.BigEndian.AppendUint16(b, start)
	return binary.BigEndian.AppendUint16(b, uint16(count))
}

// AppendWriteCoil appends a request of function 5.
func AppendWriteCoil(b []byte, at uint16, on bool) []byte {
	v := uint16(0)
	if on {
		v = 0xFF00
	}
	return binary.BigEndian.AppendUint16(binary.BigEndian.AppendUint16(append(b, WriteCoil), at), v)
}

// AppendWriteRegister appends a request of function 6.
func AppendWriteRegister(b []byte, at, v uint16) []byte {
	return binary.BigEndian.AppendUint16(binary.BigEndian.AppendUint16(append(b, WriteRegister), at), v)
}

// AppendWriteCoils appends a request of function 15.
func AppendWriteCoils(b []byte, start uint16, bits []bool) []byte {
	b = binary.BigEndian.AppendUint16(append(b, WriteCoils), start)
	b = binary.BigEndian.AppendUint16(b, uint16(len(bits)))
	b = append(b, byte((len(bits)+7)/8))
	return appendBits(b, bits)
}

// AppendWriteRegisters appends a request of function 16.
func AppendWriteRegisters(b []byte, start uint16, regs []uint16) []byte {
	b = binary.BigEndian.AppendUint16(append(b, WriteRegisters), start)
	b = binary.BigEndian.AppendUint16(b, uint16(len(regs)))
	b = append(b, byte(2*len(regs)))
	for _, r := range regs {
		b = binary.BigEndian.AppendUint16(b, r)
	}
	return b
}

// AppendMaskWrite appends a request of function 22 (6.16): the register becomes
// its value AND and, OR or where and is 0.
func AppendMaskWrite(b []byte, at, and, or uint16) []byte {
	b = binary.BigEndian.AppendUint16(append(b, MaskWrite), at)
	return binary.BigEndian.AppendUint16(binary.BigEndian.AppendUint16(b, and), or)
}

// AppendReadWrite appends a request of function 23 (6.17): registers are
// written, then others read.
func AppendReadWrite(b []byte, readAt uint16, count int, writeAt uint16, regs []uint16) []byte {
	b = binary.BigEndian.AppendUint16(append(b, ReadWrite), readAt)
	b = binary.BigEndian.AppendUint16(b, uint16(count))
	b = binary.BigEndian.AppendUint16(b, writeAt)
	b = binary.BigEndian.AppendUint16(b, uint16(len(regs)))
	b = append(b, byte(2*len(regs)))
	for _, r := range regs {
		b = binary.BigEndian.AppendUint16(b, r)
	}
	return b
}

func appendBits(b []byte, bits []bool) []byte {
	for i := 0; i < len(bits); i += 8 {
		var c byte
		for j := 0; j < 8 && i+j < len(bits); j++ {
			if bits[i+j] {
				c |= 1 << j
			}
		}
		b = append(b, c)
	}
	return b
}

// check refuses an answer that does not belong to the function. An exception
// answer gives its Exception.
func check(pdu []byte, function byte) error {
	switch {
	case len(pdu) == 0:
		return Malformed("it is empty")
	case pdu[0] == function|0x80:
		if len(pdu) != 2 {
			return Malformed("an exception of the wrong length")
		}
		return Exception(pdu[1])
	case pdu[0] != function:
		return Malformed(fmt.Sprintf("function %d was asked, %d answered", function, pdu[0]))
	}
	return nil
}

// ParseBits reads the answer to function 1 or 2 into bits.
func ParseBits(pdu []byte, function byte, bits []bool) error {
	if err := check(pdu, function); err != nil {
		return err
	}
	n := (len(bits) + 7) / 8
	if len(pdu) != 2+n || int(pdu[1]) != n {
		return Malformed("the wrong number of bits")
	}
	for i := range bits {
		bits[i] = pdu[2+i/8]>>(i%8)&1 == 1
	}
	return nil
}

// ParseRegisters reads the answer to function 3, 4 or 23 into regs.
func ParseRegisters(pdu []byte, function byte, regs []uint16) error {
	if err := check(pdu, function); err != nil {
		return err
	}
	if len(pdu) != 2+2*len(regs) || int(pdu[1]) != 2*len(regs) {
		return Malformed("the wrong number of registers")
	}
	for i := range regs {
		regs[i] = binary.BigEndian.Uint16(pdu[2+2*i:])
	}
	return nil
}

// ParseWritten checks the answer to a write: it repeats the request's first
// five bytes, and all seven of function 22.
func ParseWritten(pdu, request []byte) error {
	if err := check(pdu, request[0]); err != nil {
		return err
	}
	n := 5
	if request[0] == MaskWrite {
		n = 7
	}
	if len(pdu) != n || string(pdu) != string(request[:n]) {
		return Malformed("the answer to a write does not repeat it")
	}
	return nil
}
