package e2e

import "testing"

// TestOnesOwnAccount: a person changes the password and ends a session elsewhere; an
// account with a last day and a new password to choose says so in the list.
func TestOnesOwnAccount(t *testing.T) {
	s, b := workshop(t)
	other := openBrowser(t, s.base)
	other.signIn("ada", "larch-and-spruce")
	other.see("383 tags")
	account := func() {
		t.Helper()
		b.click("Ada Birch")
		b.click("My account")
		b.see("Signed in at", "this one")
	}
	account()
	b.see("a page is open")
	b.click("End")
	b.see("Nowhere else.")
	other.see("Sign in")
	b.fill("Present password", "guess")
	b.fill("New password", "spruce-and-larch")
	b.click("Change the password")
	b.see("do not match")
	b.fill("Present password", "larch-and-spruce")
	b.click("Change the password")
	b.see("The password is changed")
	b.fill("Present password", "spruce-and-larch")
	b.fill("New password", "larch-and-spruce")
	b.click("Change the password")
	b.see("was one of the last ones")
	b.keys("\x1b")
	b.gone("Signed in at")

	b.open("/p/larchmoor/people")
	b.click("Sam Oakes")
	b.see("Last day")
	b.js(`(e => { e.value = '2020-01-31'; e.dispatchEvent(new Event('input')) })(document.querySelector('input[type=date]'))`)
	b.js(`[...document.querySelectorAll('label')].find(x => x.innerText.includes('A new password is to be chosen')).click()`)
	b.click("Save")
	b.see("ended on 2020-01-31", "chooses a new password")
	other.signIn("sam", "pine-and-fir")
	other.see("do not match")
}
