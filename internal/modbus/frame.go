package modbus

import (
	"encoding/binary"
	"fmt"
	"io"
)

// Header is the MBAP header (Modbus Messaging on TCP/IP 1.0b, 3.1.3).
type Header struct {
	Transaction uint16
	Unit        byte
}

// MaxPDU is the longest PDU (Modbus Application Protocol 1.1b3, 4.1).
const MaxPDU = 253

const headerLength = 7

// AppendFrame appends a frame.
func AppendFrame(b []byte, h Header, pdu []byte) []byte {
	b = binary.BigEndian.AppendUint16(b, h.Transaction)
	b = append(b, 0, 0)
	b = binary.BigEndian.AppendUint16(b, uint16(len(pdu)+1))
	return append(append(b, h.Unit), pdu...)
}

// ReadFrame reads one frame. The PDU lies in buf, which must have room for
// MaxPDU bytes. A stream that is not Modbus gives a Malformed.
func ReadFrame(r io.Reader, buf []byte) (Header, []byte, error) {
	var head [headerLength]byte
	if _, err := io.ReadFull(r, head[:]); err != nil {
		return Header{}, nil, err
	}
	length := int(binary.BigEndian.Uint16(head[4:]))
	if head[2] != 0 || head[3] != 0 {
		return Header{}, nil, Malformed("its protocol number is not 0")
	}
	if length < 2 || length > MaxPDU+1 {
		return Header{}, nil, Malformed(fmt.Sprintf("a frame of %d bytes", length))
	}
	pdu := buf[:length-1]
	if _, err := io.ReadFull(r, pdu); err != nil {
		return Header{}, nil, err
	}
	return Header{Transaction: binary.BigEndian.Uint16(head[:]), Unit: head[6]}, pdu, nil
}
