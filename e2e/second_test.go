package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
)

// TestOneTimeCodesByHand: somebody sets codes up in their own account, signs in with
// password and code, and ends them.
func TestOneTimeCodesByHand(t *testing.T) {
	beside(t)
	_, b := workshop(t)
	b.size(1280, 800, 1)
	account := func() {
		b.click("Ada Birch")
		b.click("My account")
		b.see("One-time codes")
	}
	account()
	b.click("Set up …")
	b.fill("Your password", "larch-and-spruce")
	b.click("Go on")
	b.see("Read this with an app for one-time codes.")
	secret := strings.ReplaceAll(b.js(`document.querySelector('.secret').innerText`), " ", "")
	code := func(steps int) string {
		c, err := totp.GenerateCode(secret, time.Now().Add(time.Duration(steps)*30*time.Second))
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	b.fill("Code", "000000")
	b.click("Ask for codes from now on")
	b.see("this is not the one-time code of now")
	b.fill("Code", code(0))
	b.click("Ask for codes from now on")
	b.see("Sign-in by password asks for a code of your app, too.")
	b.keys("\x1b")
	b.open("/")
	b.click("Sign out")
	b.fill("Name", "ada")
	b.fill("Password", "larch-and-spruce")
	b.enter()
	b.see("ada: the code of your app")
	b.fill("Code", "000000")
	b.enter()
	b.see("this is not the one-time code of now")
	b.fill("Code", code(1)) // one code is good once
	b.enter()
	b.see("383 tags")
}
