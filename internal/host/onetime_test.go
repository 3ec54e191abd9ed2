package host

import (
	"encoding/base32"
	"strings"
	"testing"
	"time"
)

// The codes are those of RFC 6238, appendix B (its last six digits, for SHA-1); one
// step to either side is taken, and none twice.
func TestSecond(t *testing.T) {
	secret := base32.StdEncoding.EncodeToString([]byte("12345678901234567890"))
	for at, code := range map[int64]string{59: "287082", 1111111109: "081804", 1111111111: "050471", 1234567890: "005924",
		2000000000: "279037", 20000000000: "353130"} {
		step, ok := checkSecond(secret, code, time.Unix(at, 0), 0)
		if !ok || step != at/30 {
			t.Errorf("%d: step %d, %v", at, step, ok)
		}
		for off, want := range map[int64]bool{-60: false, -30: true, 30: true, 60: false} {
			if _, ok := checkSecond(secret, code, time.Unix(at+off, 0), 0); ok != want && at > 59 {
				t.Errorf("%d, %d s off: %v", at, off, ok)
			}
		}
		if _, again := checkSecond(secret, code, time.Unix(at, 0), step); again {
			t.Errorf("%d: a code counts twice", at)
		}
	}
	for _, code := range []string{"", "28708", "2870820", "28708x", "００００００", strings.Repeat("0", 200)} {
		if _, ok := checkSecond(secret, code, time.Unix(59, 0), 0); ok {
			t.Errorf("%q is taken", code)
		}
	}
	key, err := newSecond("Larchmoor", "tom")
	if err != nil || len(key.Secret()) != 32 || !strings.Contains(key.URL(), "otpauth://totp/Larchmoor:tom") {
		t.Errorf("%v %v", key, err)
	}
}
