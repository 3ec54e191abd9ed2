package modbus

import (
	"bufio"
	"context"
	"encoding/binary"
	"net"
	"sync"
)

// Bank is what a server serves: the four tables of its units. Methods may be
// called by several goroutines. They return IllegalAddress for what is not
// there and GatewayTarget for a unit that is not.
type Bank interface {
	ReadBits(unit byte, function byte, start uint16, bits []bool) error
	ReadRegisters(unit byte, function byte, start uint16, regs []uint16) error
	WriteBits(unit byte, start uint16, bits []bool) error
	WriteRegisters(unit byte, start uint16, regs []uint16) error
}

// Serve answers connections until the context ends; it then closes the
// listener and every connection and returns.
func Serve(ctx context.Context, l net.Listener, bank Bank) error {
	var wg sync.WaitGroup
	stop := context.AfterFunc(ctx, func() { l.Close() })
	defer stop()
	for {
		conn, err := l.Accept()
		if err != nil {
			wg.Wait()
			if ctx.Err() != nil {
				return nil
			}
			return err
		}
		wg.Add(1)
		go func() {
			defer wg.Done()
			closer := context.AfterFunc(ctx, func() { conn.Close() })
			defer closer()
			defer conn.Close()
			serveConn(conn, bank)
		}()
	}
}

func serveConn(conn net.Conn, bank Bank) {
	in := bufio.NewReader(conn)
	buf := make([]byte, MaxPDU)
	var out []byte
	for {
		h, pdu, err := ReadFrame(in, buf)
		if err != nil {
			return
		}
		out = AppendFrame(out[:0], h, Answer(bank, h.Unit, pdu))
		if _, err := conn.Write(out); err != nil {
			return
		}
	}
}

// Answer computes the answer to one request PDU.
func Answer(bank Bank, unit byte, pdu []byte) []byte {
	answer, err := answer(bank, unit, pdu)
	if err == nil {
		return answer
	}
	e, ok := err.(Exception)
	if !ok {
		e = DeviceFailure
	}
	return []byte{pdu[0] | 0x80, byte(e)}
}

func answer(bank Bank, unit byte, pdu []byte) ([]byte, error) {
	f := pdu[0]
	if len(pdu) < 5 {
		if f >= ReadCoils && f <= WriteRegister || f == WriteCoils || f == WriteRegisters || f == MaskWrite || f == ReadWrite {
			return nil, IllegalValue
		}
		return nil, IllegalFunction
	}
	start, count := binary.BigEndian.Uint16(pdu[1:]), int(binary.BigEndian.Uint16(pdu[3:]))
	fits := func(limit int) bool { return count >= 1 && count <= limit && int(start)+count <= 65536 }
	switch f {
	case ReadCoils, ReadDiscreteInputs:
		if !fits(MaxReadBits) {
			return nil, IllegalValue
		}
		bits := make([]bool, count)
		if err := bank.ReadBits(unit, f, start, bits); err != nil {
			return nil, err
		}
		return appendBits([]byte{f, byte((count + 7) / 8)}, bits), nil
	case ReadHolding, ReadInput:
		if !fits(MaxReadRegisters) {
			return nil, IllegalValue
		}
		regs := make([]uint16, count)
		if err := bank.ReadRegisters(unit, f, start, regs); err != nil {
			return nil, err
		}
		out := []byte{f, byte(2 * count)}
		for _, r := range regs {
			out = binary.BigEndian.AppendUint16(out, r)
		}
		return out, nil
	case WriteCoil:
		if count != 0 && count != 0xFF00 {
			return nil, IllegalValue
		}
		return pdu[:5], bank.WriteBits(unit, start, []bool{count != 0})
	case WriteRegister:
		return pdu[:5], bank.WriteRegisters(unit, start, []uint16{uint16(count)})
	case WriteCoils:
		n := (count + 7) / 8
		if !fits(MaxWriteBits) || len(pdu) != 6+n || int(pdu[5]) != n {
			return nil, IllegalValue
		}
		bits := make([]bool, count)
		for i := range bits {
			bits[i] = pdu[6+i/8]>>(i%8)&1 == 1
		}
		return pdu[:5], bank.WriteBits(unit, start, bits)
	case WriteRegisters:
		if !fits(MaxWriteRegisters) || len(pdu) != 6+2*count || int(pdu[5]) != 2*count {
			return nil, IllegalValue
		}
		regs := make([]uint16, count)
		for i := range regs {
			regs[i] = binary.BigEndian.Uint16(pdu[6+2*i:])
		}
		return pdu[:5], bank.WriteRegisters(unit, start, regs)
	case MaskWrite:
		return maskWrite(bank, unit, start, pdu)
	case ReadWrite:
		return readWrite(bank, unit, start, count, pdu)
	}
	return nil, IllegalFunction
}

// masking keeps two mask writes from coming between each other's reading and
// writing.
var masking sync.Mutex

func maskWrite(bank Bank, unit byte, at uint16, pdu []byte) ([]byte, error) {
	if len(pdu) != 7 {
		return nil, IllegalValue
	}
	masking.Lock()
	defer masking.Unlock()
	and, or := binary.BigEndian.Uint16(pdu[3:]), binary.BigEndian.Uint16(pdu[5:])
	regs := make([]uint16, 1)
	if err := bank.ReadRegisters(unit, ReadHolding, at, regs); err != nil {
		return nil, err
	}
	regs[0] = regs[0]&and | or&^and
	return pdu, bank.WriteRegisters(unit, at, regs)
}

func readWrite(bank Bank, unit byte, readAt uint16, count int, pdu []byte) ([]byte, error) {
	if len(pdu) < 10 {
		return nil, IllegalValue
	}
	writeAt, n := binary.BigEndian.Uint16(pdu[5:]), int(binary.BigEndian.Uint16(pdu[7:]))
	if count < 1 || count > MaxReadRegisters || n < 1 || n > MaxReadWrite || len(pdu) != 10+2*n || int(pdu[9]) != 2*n ||
		int(readAt)+count > 65536 || int(writeAt)+n > 65536 {
		return nil, IllegalValue
	}
	regs := make([]uint16, n)
	for i := range regs {
		regs[i] = binary.BigEndian.Uint16(pdu[10+2*i:])
	}
	if err := bank.WriteRegisters(unit, writeAt, regs); err != nil {
		return nil, err
	}
	back := make([]uint16, count)
	if err := bank.ReadRegisters(unit, ReadHolding, readAt, back); err != nil {
		return nil, err
	}
	out := []byte{ReadWrite, byte(2 * count)}
	for _, r := range back {
		out = binary.BigEndian.AppendUint16(out, r)
	}
	return out, nil
}
