package backup

import (
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"

	"filippo.io/age"

	"readyrail/internal/core/say"
)

// Identity opens what is encrypted; nil opens what is not.
type Identity = age.Identity

// Recipient is for whom a backup is encrypted, as age1 and what follows; an empty text is
// for nobody, and the backup is plain.
func Recipient(text string) (age.Recipient, error) {
	if text == "" {
		return nil, nil
	}
	r, err := age.ParseX25519Recipient(strings.TrimSpace(text))
	if err != nil {
		return nil, say.New("this is no age recipient: it begins with age1")
	}
	return r, nil
}

// ReadIdentity reads the identity that opens backups from a file of the age format.
func ReadIdentity(path string) (Identity, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	list, err := age.ParseIdentities(f)
	if err != nil || len(list) != 1 {
		return nil, say.Errorf("%s does not hold one age identity, which begins with AGE-SECRET-KEY-", path)
	}
	return list[0], nil
}

// sealer is a file that is encrypted where it is for somebody.
type sealer struct {
	io.Writer
	file *os.File
	age  io.Closer
}

// create makes a file of a backup, encrypted where it is for somebody.
func create(path string, to age.Recipient) (*sealer, error) {
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return nil, err
	}
	if to != nil {
		path += sealEnding
	}
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return nil, err
	}
	s := &sealer{Writer: f, file: f}
	if to == nil {
		return s, nil
	}
	w, err := age.Encrypt(f, to)
	if err != nil {
		return nil, errors.Join(err, f.Close())
	}
	s.Writer, s.age = w, w
	return s, nil
}

// Close has all of it on the disk.
func (s *sealer) Close() (err error) {
	if s.age != nil {
		err = s.age.Close()
	}
	return errors.Join(err, s.file.Sync(), s.file.Close())
}

// opener is a file that is read, deciphered where it was encrypted.
type opener struct {
	io.Reader
	io.Closer
}

// opened opens a file of a backup.
func opened(dir, path string, key Identity) (io.ReadCloser, error) {
	full := filepath.Join(dir, filepath.FromSlash(path))
	if f, err := os.Open(full); err == nil {
		return f, nil
	}
	f, err := os.Open(full + sealEnding)
	if err != nil {
		return nil, say.Errorf("the backup has no %s", path)
	}
	if key == nil {
		return nil, errors.Join(say.New("this backup is encrypted: give the identity that opens it"), f.Close())
	}
	r, err := age.Decrypt(f, key)
	if err != nil {
		return nil, errors.Join(say.New("this backup is encrypted for somebody else"), f.Close())
	}
	return opener{r, f}, nil
}
