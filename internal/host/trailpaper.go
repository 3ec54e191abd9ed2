package host

import (
	"context"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"io"
	"strings"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/exchange"
	"readyrail/internal/store"
)

// PrintTrail writes what a filter takes of the trail as a printed record: with the
// filter in words, how many records, whether the trail was whole, and its end as a
// signed head, which a trail can be compared with later. It returns how many records
// are on it.
func (p *Project) PrintTrail(ctx context.Context, w io.Writer, who Actor, f store.TrailFilter, told, language string) (n int, err error) {
	in := func(err error) string { return say.In(language, err) }
	state, broken := p.VerifyTrail(ctx, nil)
	if broken != nil && !errors.As(broken, new(*audit.Broken)) {
		return 0, broken
	}
	whole := in(say.Errorf("whole, %d records", state.Records))
	if broken != nil {
		whole = in(broken)
	}
	site := p.Draft().Site().Name
	paper := exchange.Paper{
		Title: in(say.Errorf("Audit trail of %s", site)),
		Page:  in(say.New("page %d of %s")),
		Facts: []exchange.Fact{
			{Name: in(say.New("Project")), Text: site + " (" + p.id + ")"},
			{Name: in(say.New("Printed")), Text: placeName(who.Name, who.Panel) + ", " + Stamp(time.Now().UnixNano())},
			{Name: in(say.New("Filter")), Text: told},
			{Name: in(say.New("The trail was")), Text: whole},
		},
		Columns: []exchange.PaperColumn{
			{Name: in(say.New("Number")), Share: 5}, {Name: in(say.New("Time (UTC)")), Share: 13}, {Name: in(say.New("Who, where")), Share: 12},
			{Name: in(say.New("What")), Share: 9}, {Name: in(say.New("On")), Share: 17}, {Name: in(say.New("Before → after")), Share: 16},
			{Name: in(say.New("Outcome")), Share: 8}, {Name: in(say.New("Reason, signature")), Share: 20},
		},
	}
	sum := sha256.New()
	lines := func(line func([]string) error) error {
		return p.EachRecord(ctx, f, func(r audit.Record) error {
			n++
			sumRecord(sum, &r)
			return line(paperLine(&r))
		})
	}
	ends := func() []exchange.Fact {
		seq, hash := p.records.Trail.End()
		head := audit.SignHead(p.host.signing.key(), p.id, seq, time.Now().UnixNano(), hash)
		return []exchange.Fact{
			{Name: in(say.New("Records above")), Text: fmt.Sprint(n)},
			{Name: in(say.New("SHA-256 of them")), Text: hex.EncodeToString(sum.Sum(nil)), Code: true},
			{Name: in(say.New("End of the trail, signed")), Text: head.String(), Code: true},
			{Name: in(say.New("Public key of the server")), Text: hex.EncodeToString(p.host.signing.key().Public().(ed25519.PublicKey)), Code: true},
			{Name: in(say.New("To be checked by")), Text: in(say.Errorf(
				"the signed line in a file %s in a folder, and: readyrail audit verify FOLDER --heads THAT-FOLDER", p.id+".heads"))},
		}
	}
	return n, exchange.WritePaper(w, paper, lines, ends)
}

// sumRecord adds a record as it is told in tables, so that a file of the same records
// can be compared: its cells one a line, with an empty line after.
func sumRecord(sum hash.Hash, r *audit.Record) {
	io.WriteString(sum, strings.Join(TrailLine(r), "\n")+"\n\n")
}

// paperLine is a record as a line of the printed trail.
func paperLine(r *audit.Record) []string {
	joined := func(by string, parts ...string) string {
		var has []string
		for _, x := range parts {
			if x != "" {
				has = append(has, x)
			}
		}
		return strings.Join(has, by)
	}
	change := joined(" → ", r.Old, r.New)
	return []string{fmt.Sprint(r.Seq), time.Unix(0, r.At).UTC().Format("2006-01-02 15:04:05.000"), joined(", ", r.Name, r.Panel), r.What,
		joined(" · ", r.Path, joined(" › ", r.Screen, r.Element)), change, r.Outcome, joined("; ", r.Reason, r.Sign, r.Captured)}
}
