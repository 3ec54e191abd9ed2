package store

import (
	"context"
	"encoding/binary"
	"path/filepath"
	"slices"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/history"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// seconds are a project's samples/seconds.db: what came in and is not in a
// month's file yet. A row is on disk before it counts, a power cut too.
type seconds struct {
	db      *database
	numbers map[string]int64 // of tags, by id
	ids     map[int64]string
	last    int64 // number of the newest row
	coder   history.Coder
}

// TagValue is what a tag was at its value's own time.
type TagValue struct {
	Tag string
	value.Value
	tail *tailOf // where it is known already
}

// Forms of rows.
const (
	formSecond = 1 // a few samples of many tags
	formRest   = 2 // a block of each tag: what was left of rows that went
)

func openSeconds(dir string, r *Reserve) (*seconds, error) {
	db, err := open(filepath.Join(dir, "seconds.db"), "seconds", full, r)
	if err != nil {
		return nil, err
	}
	db.yields = true
	s := &seconds{db: db, numbers: map[string]int64{}, ids: map[int64]string{}}
	var tags []struct {
		N  int64
		ID string
	}
	if err := db.SelectContext(context.Background(), &tags, "SELECT n, id FROM tag"); err != nil {
		db.Close()
		return nil, err
	}
	if err := db.GetContext(context.Background(), &s.last, "SELECT coalesce(max(seq), 0) FROM second"); err != nil {
		db.Close()
		return nil, err
	}
	for _, t := range tags {
		s.numbers[t.ID], s.ids[t.N] = t.N, t.ID
	}
	return s, nil
}

// keep stores samples, with those of their tags that are new: a row of those that
// have their place at the end, and rows of those that are late. It is durable when
// this returns.
func (s *seconds) keep(ctx context.Context, list, late []TagValue) error {
	fresh := map[string]int64{}
	seq := int64(0)
	number := func(x *TagValue) int64 {
		if x.tail != nil && x.tail.number != 0 {
			return x.tail.number
		}
		n := s.numbers[x.Tag]
		if n == 0 {
			return fresh[x.Tag]
		}
		if x.tail != nil {
			x.tail.number = n
		}
		return n
	}
	err := inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		clear(fresh)
		for _, some := range [][]TagValue{list, late} {
			for i := range some {
				x := &some[i]
				if number(x) != 0 {
					continue
				}
				added, err := tx.ExecContext(ctx, "INSERT INTO tag (id) VALUES (?)", x.Tag)
				if err == nil {
					fresh[x.Tag], err = added.LastInsertId()
				}
				if err != nil {
					return err
				}
			}
		}
		for some := range slices.Chunk(late, mostLate) {
			if _, err := tx.ExecContext(ctx, "INSERT INTO late (data) VALUES (?)", encodeSecond(some, number)); err != nil {
				return err
			}
		}
		if len(list) == 0 {
			return nil
		}
		newest := int64(0)
		for i := range list {
			newest = max(newest, list[i].Nanos())
		}
		added, err := tx.ExecContext(ctx, "INSERT INTO second (at, form, data) VALUES (?, ?, ?)", newest, formSecond,
			encodeSecond(list, number))
		if err == nil {
			seq, err = added.LastInsertId()
		}
		return err
	})
	if err != nil {
		return err
	}
	s.last = max(s.last, seq)
	for id, n := range fresh {
		s.numbers[id], s.ids[n] = n, id
	}
	return nil
}

// rest replaces the rows up to one, in its place, with one that has what is left
// of them.
func (s *seconds) rest(ctx context.Context, data []byte, newest, upto int64) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, "DELETE FROM second WHERE seq <= ?", upto); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, "INSERT INTO second (seq, at, form, data) VALUES (?, ?, ?, ?)", upto, newest, formRest, data)
		return err
	})
}

// mostLate is how many samples a row of late ones has at most.
const mostLate = 100_000

// late is the oldest row of late samples, by tag in the order in which they came,
// and its number; 0 for none.
func (s *seconds) late(ctx context.Context) (by map[string][]value.Value, seq int64, err error) {
	var rows []struct {
		Seq  int64
		Data []byte
	}
	if err := s.db.SelectContext(ctx, &rows, "SELECT seq, data FROM late ORDER BY seq LIMIT 1"); err != nil || len(rows) == 0 {
		return nil, 0, err
	}
	by = map[string][]value.Value{}
	return by, rows[0].Seq, s.readSecond(rows[0].Data, func(id string, v value.Value) { by[id] = append(by[id], v) })
}

// merged forgets a row of late samples.
func (s *seconds) merged(ctx context.Context, seq int64) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM late WHERE seq = ?", seq)
	return err
}

// drop forgets the rows whose samples are all before a time.
func (s *seconds) drop(ctx context.Context, before int64) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM second WHERE at < ?", before)
	return err
}

// each hands over every sample in the order in which they were kept.
func (s *seconds) each(ctx context.Context, do func(id string, v value.Value)) error {
	rows, err := s.db.QueryxContext(ctx, "SELECT form, data FROM second ORDER BY seq")
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var form int
		var data []byte
		if err := rows.Scan(&form, &data); err != nil {
			return err
		}
		read := s.readSecond
		if form == formRest {
			read = s.readRest
		}
		if err := read(data, do); err != nil {
			return say.Errorf("%s: %w", "seconds.db", err)
		}
	}
	return rows.Err()
}

var errRow = say.New("a row of samples is damaged")

// A second's row has a count, then column by column, packed: the tags' numbers
// and stored kinds and qualities, the times, the bits; the texts stand at its
// end, each with its length.

func encodeSecond(list []TagValue, number func(*TagValue) int64) []byte {
	columns := make([][]uint64, 3)
	for i := range columns {
		columns[i] = make([]uint64, len(list))
	}
	base := list[0].Nanos()
	for i := range list {
		base = min(base, list[i].Nanos())
	}
	var texts []byte
	for i := range list {
		x := &list[i]
		columns[0][i] = uint64(number(x))<<16 | uint64(history.StoredKind(x.Kind))<<8 | uint64(history.StoredQuality(x.Quality))
		columns[1][i] = uint64(x.Nanos() - base)
		if x.Kind != value.STRING {
			columns[2][i] = x.Bits()
			continue
		}
		columns[2][i] = uint64(len(x.Str()))
		texts = append(texts, x.Str()...)
	}
	out := binary.AppendVarint(binary.AppendUvarint(nil, uint64(len(list))), base)
	for _, c := range columns {
		out = history.Pack(out, c)
	}
	return append(out, texts...)
}

// mostInRow bounds what is believed of a stored number of samples.
const mostInRow = 10_000_000

func (s *seconds) readSecond(in []byte, do func(string, value.Value)) error {
	count, size := binary.Uvarint(in)
	if size <= 0 || count > mostInRow {
		return errRow
	}
	in = in[size:]
	base, size := binary.Varint(in)
	if size <= 0 {
		return errRow
	}
	in = in[size:]
	var columns [3][]uint64
	for i := range columns {
		columns[i] = make([]uint64, count)
		var err error
		if in, err = history.Unpack(in, columns[i]); err != nil {
			return err
		}
	}
	for i := range count {
		head := columns[0][i]
		id, known := s.ids[int64(head>>16)]
		kind, quality := history.KindStored(int64(head>>8&0xff)), history.QualityStored(int64(head&0xff))
		if !known || kind == value.None {
			return errRow
		}
		var v value.Value
		if kind == value.STRING {
			n := columns[2][i]
			if n > uint64(len(in)) {
				return errRow
			}
			v.PutText(quality, string(in[:n]))
			in = in[n:]
		} else {
			v.Put(kind, quality, columns[2][i])
		}
		do(id, v.AtNanos(base+int64(columns[1][i])))
	}
	return nil
}

// A row of what is left has block after block: the tag's number, the length and
// the block.

func encodeRest(left map[int64][]history.Column, coder *history.Coder) []byte {
	out, block := []byte{}, []byte{}
	for n, columns := range left {
		for _, c := range columns {
			for from := 0; from < c.Len(); from += history.MaxBlock {
				some := c.Slice(from, min(c.Len(), from+history.MaxBlock))
				block = coder.Encode(block[:0], &some)
				out = binary.AppendUvarint(binary.AppendUvarint(out, uint64(n)), uint64(len(block)))
				out = append(out, block...)
			}
		}
	}
	return out
}

func (s *seconds) readRest(in []byte, do func(string, value.Value)) error {
	for len(in) > 0 {
		n, size := binary.Uvarint(in)
		if size <= 0 {
			return errRow
		}
		in = in[size:]
		length, size := binary.Uvarint(in)
		id, known := s.ids[int64(n)]
		if size <= 0 || !known || length > uint64(len(in)-size) {
			return errRow
		}
		in = in[size:]
		var c history.Column
		if err := s.coder.Decode(in[:length], &c); err != nil {
			return err
		}
		for i := range c.At {
			do(id, c.Value(i))
		}
		in = in[length:]
	}
	return nil
}
