package history

import (
	"encoding/binary"
	"math/bits"
)

// Numbers are packed in frames: of each the least is taken off, and what is left
// is stored in as few bits as the largest needs.

// frame is how many numbers one has.
const frame = 128

// Pack appends numbers frame by frame.
func Pack(out []byte, list []uint64) []byte {
	for len(list) > 0 {
		n := min(len(list), frame)
		out = packFrame(out, list[:n])
		list = list[n:]
	}
	return out
}

func packFrame(out []byte, list []uint64) []byte {
	least, most := list[0], list[0]
	for _, v := range list {
		least, most = min(least, v), max(most, v)
	}
	width := uint(bits.Len64(most - least))
	out = append(out, byte(width))
	out = binary.AppendUvarint(out, least)
	if width == 0 {
		return out
	}
	var held uint64
	var filled uint
	for _, v := range list {
		v -= least
		held |= v << filled
		if filled += width; filled >= 64 {
			out = binary.LittleEndian.AppendUint64(out, held)
			filled -= 64
			held = 0
			if filled > 0 {
				held = v >> (width - filled)
			}
		}
	}
	for ; filled > 0; filled -= min(filled, 8) {
		out = append(out, byte(held))
		held >>= 8
	}
	return out
}

// Unpack reads as many numbers as there is room in list, and returns what
// follows them.
func Unpack(in []byte, list []uint64) ([]byte, error) {
	for len(list) > 0 {
		n := min(len(list), frame)
		var err error
		if in, err = unpackFrame(in, list[:n]); err != nil {
			return nil, err
		}
		list = list[n:]
	}
	return in, nil
}

func unpackFrame(in []byte, list []uint64) ([]byte, error) {
	if len(in) == 0 || in[0] > 64 {
		return nil, errDamaged
	}
	width := uint(in[0])
	least, n := binary.Uvarint(in[1:])
	if n <= 0 {
		return nil, errDamaged
	}
	in = in[1+n:]
	size := (uint(len(list))*width + 7) / 8
	if uint(len(in)) < size {
		return nil, errDamaged
	}
	data, rest := in[:size], in[size:]
	if width == 0 {
		for i := range list {
			list[i] = least
		}
		return rest, nil
	}
	mask := ^uint64(0) >> (64 - width)
	at := uint(0)
	for i := range list {
		byteAt, shift := at/8, at%8
		var v uint64
		if byteAt+8 <= size {
			v = binary.LittleEndian.Uint64(data[byteAt:]) >> shift
		} else {
			v = tail(data[byteAt:]) >> shift
		}
		if shift+width > 64 {
			v |= uint64(data[byteAt+8]) << (64 - shift)
		}
		list[i] = least + v&mask
		at += width
	}
	return rest, nil
}

// tail is fewer than eight bytes as a number.
func tail(b []byte) (v uint64) {
	for i, c := range b {
		v |= uint64(c) << (8 * i)
	}
	return v
}
