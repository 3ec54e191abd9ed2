package audit

import (
	"bufio"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io"

	"readyrail/internal/core/say"
)

// A signed file has a line of JSON for each record of a trail, or of a part of it, one
// after the other, and at the end the trail's head, the SHA-256 of all lines before, and
// a signature over both. It is whole or not by the server's public key alone.

// fileRecord is a record with its hash.
type fileRecord struct {
	Record
	Hash string `json:"hash"`
}

// fileEnd is the last line.
type fileEnd struct {
	Head      string `json:"head"`
	Digest    string `json:"digest"`
	Signature []byte `json:"signature"`
}

func (e *fileEnd) message() []byte {
	return []byte("readyrail trail file\n" + e.Digest + "\n" + e.Head)
}

// WriteFile writes a trail as a signed file: each hands over its records in order, and
// head signs its end, whose number and hash it is given.
func WriteFile(w io.Writer, key ed25519.PrivateKey, each func(do func(*Record) error) error,
	head func(seq int64, hash []byte) Head) error {
	digest := sha256.New()
	out := bufio.NewWriter(w)
	lines := json.NewEncoder(io.MultiWriter(out, digest))
	last := Record{}
	err := each(func(r *Record) error {
		last = *r
		return lines.Encode(fileRecord{*r, hex.EncodeToString(r.Hash)})
	})
	if err != nil {
		return err
	}
	h := head(last.Seq, last.Hash)
	end := fileEnd{Head: h.String(), Digest: hex.EncodeToString(digest.Sum(nil))}
	end.Signature = ed25519.Sign(key, end.message())
	if err := json.NewEncoder(out).Encode(end); err != nil {
		return err
	}
	return out.Flush()
}

// longestLine bounds a line of a file that is read.
const longestLine = 1 << 20

// VerifyFile reads a signed file, and returns its head and how many records it has: they
// are the last ones up to the head's.
func VerifyFile(r io.Reader, keys PublicKeys) (head Head, n int64, err error) {
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, longestLine)
	digest := sha256.New()
	var line, before []byte // the last line is the end, not a record
	var last fileRecord
	for lines.Scan() {
		if before = append(before[:0], line...); len(before) > 0 {
			digest.Write(before)
			digest.Write([]byte("\n"))
			was := last.Seq
			last = fileRecord{}
			if err := json.Unmarshal(before, &last); err != nil || n > 0 && last.Seq != was+1 || last.Seq < 1 {
				return head, n, &Broken{was + 1, "it is not there, or cannot be read"}
			}
			n++
		}
		line = append(line[:0], lines.Bytes()...)
	}
	if err := lines.Err(); err != nil {
		return head, n, err
	}
	var end fileEnd
	if err := json.Unmarshal(line, &end); err != nil || len(end.Signature) == 0 {
		return head, n, errors.Join(ErrCut, err)
	}
	if head, err = ParseHead(end.Head); err != nil {
		return head, n, err
	}
	switch {
	case !keys.signed(end.message(), end.Signature) || !head.By(keys):
		return head, n, say.Errorf("the file was not signed with this key, or its end was altered")
	case end.Digest != hex.EncodeToString(digest.Sum(nil)):
		return head, n, say.Errorf("a record of the file was altered, taken out or put in since it was signed")
	case head.Seq != last.Seq || hex.EncodeToString(head.Hash) != last.Hash:
		return head, n, say.Errorf("the file's records do not end where its head says")
	}
	return head, n, nil
}

// ErrCut says that a signed file has no end.
var ErrCut = say.New("the file has no signed end: it was cut off")
