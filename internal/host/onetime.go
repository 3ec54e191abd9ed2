package host

import (
	"crypto/subtle"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"
)

// One-time codes by RFC 6238: six digits of HMAC-SHA-1, a new one each 30 s, which is
// what the apps for them all take.

const (
	codeStep = 30 * time.Second
	// codeSkew is how many steps a clock may be off, either way (RFC 6238, 5.2).
	codeSkew = 1
)

// newSecond makes a secret of one-time codes for an account: its key has the secret as
// text, as a link, and as a picture to be read by a camera.
func newSecond(server, account string) (*otp.Key, error) {
	return totp.Generate(totp.GenerateOpts{Issuer: server, AccountName: account, Period: uint(codeStep.Seconds()), SecretSize: 20})
}

// checkSecond tells which step of time a code is of; ok is false where it is of none
// near now, or of one that is not after used. The step is to be kept as used, so that
// a code counts once (RFC 6238, 5.2).
func checkSecond(secret, code string, now time.Time, used int64) (step int64, ok bool) {
	if len(code) != int(otp.DigitsSix) {
		return 0, false
	}
	for off := -codeSkew; off <= codeSkew; off++ {
		at := now.Add(time.Duration(off) * codeStep)
		want, err := totp.GenerateCode(secret, at)
		if err != nil {
			return 0, false
		}
		if subtle.ConstantTimeCompare([]byte(want), []byte(code)) == 1 {
			step = at.Unix() / int64(codeStep.Seconds())
			return step, step > used
		}
	}
	return 0, false
}
