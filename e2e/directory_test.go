package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/target"
	"github.com/chromedp/chromedp"

	"readyrail/internal/directory/standin"
)

// credential puts the server's own sign-in at a directory into the vault.
func (b *browser) credential(user string) {
	b.t.Helper()
	said := b.ask("PUT", "/vault", map[string]any{"name": "directory", "kind": "password", "user": user, "password": standin.ServerPassword,
		"roles": []string{}, "hosts": []string{"127.0.0.1"}})
	if !strings.HasPrefix(said, "204") {
		b.t.Fatal(said)
	}
}

// groupRole gives a group of the directory a role in the form.
func (b *browser) groupRole(group, role string) {
	b.t.Helper()
	b.click("Add a group")
	b.fill("Group", group)
	b.choose("Role "+group, role)
}

// TestTheCompanysDirectory: who manages the server chooses the directory, tries it, and
// gives its groups roles; somebody whom nobody made an account signs in at the Desk, and
// is put out as the directory no longer has them.
func TestTheCompanysDirectory(t *testing.T) {
	people := standin.Yard()
	side, err := standin.ServeLDAP("127.0.0.1:0", people)
	if err != nil {
		t.Fatal(err)
	}
	defer side.Close()
	s, ada := workshop(t)
	ada.credential(standin.ServerName)
	ada.open("/p/larchmoor/people")
	ada.click("Directory")
	ada.see("Whom your company's directory knows")
	ada.choose("How it is asked", "LDAP")
	ada.fill("What people call it", "Larchmoor directory")
	ada.fill("Address", "ldaps://10.255.0.1")
	ada.choose("Entry of the vault", "directory")
	ada.fill("People are beneath", standin.Base)
	ada.click("Save")
	ada.see("may not go to 10.255.0.1")
	ada.fill("Address", "ldap://"+side.Address)
	ada.fill("Certificate of who signed", side.Authority)
	ada.fill("Whom to look for", "wren")
	ada.click("Try it")
	ada.see("Larchmoor directory answers.", "wren is Wren Hazel.", "cn=yard-operators", "Roles: none")
	ada.groupRole("yard-operators", "Operator")
	ada.click("Try it")
	ada.see("Roles: Operator · Larchmoor drying yard")
	ada.click("Save")
	ada.see("its people were asked for", "0 of its people have an account")

	wren := openBrowser(t, s.base)
	wren.signIn("wren", "hazel-and-thorn")
	wren.see("name and password do not match")
	wren.signIn("wren", "hazel-and-sloe")
	wren.see("Wren Hazel")
	wren.open("/desk/larchmoor/s-chamber1")
	wren.see("Dry bulb", "Wren Hazel")
	ada.open("/p/larchmoor/people")
	ada.see("Wren Hazel", "by the company's directory")

	people.Drop("wren")
	ada.click("Directory")
	ada.click("Ask for its people now")
	ada.see("1 of its people have an account, 1 of those no longer there")
	wren.see("Sign in")
	wren.gone("Wren Hazel")
	side.Close()
	ada.click("Ask for its people now")
	ada.open("/p/larchmoor/people")
	ada.see("no longer in the directory")
}

// popup is the window that a page has opened.
func (b *browser) popup() *browser {
	b.t.Helper()
	var id target.ID
	b.until("a window opened", func() bool {
		list, err := target.GetTargets().Do(cdp.WithExecutor(b.ctx, chromedp.FromContext(b.ctx).Browser))
		if err != nil {
			return false
		}
		for _, x := range list {
			if x.BrowserContextID == b.own && x.Type == "page" && !strings.HasPrefix(x.URL, b.base) && x.URL != "about:blank" {
				id = x.TargetID
			}
		}
		return id != ""
	})
	ctx, cancel := chromedp.NewContext(b.ctx, chromedp.WithTargetID(id))
	b.t.Cleanup(cancel)
	return &browser{t: b.t, ctx: ctx, base: b.base, cancel: cancel}
}

// TestSigningAtTheProvider: who signs in by a visit to the provider comes back to where
// they were, and signs by another visit, which asks for the password anew.
func TestSigningAtTheProvider(t *testing.T) {
	people := standin.Yard()
	people.Set("wren", func(p *standin.Person) { p.Groups = []string{"yard-leads"} })
	side, err := standin.ServeOpenID("127.0.0.1:0", people)
	if err != nil {
		t.Fatal(err)
	}
	defer side.Close()
	s, ada := workshop(t)
	ada.credential(standin.Client)
	said := ada.ask("PUT", "/directory", map[string]any{"kind": "openid", "title": "Larchmoor directory", "address": side.Address,
		"credential": "directory", "authority": "", "base": "", "name": "", "fullName": "", "groups": "", "pinSigns": false,
		"members": []map[string]any{{"group": "yard-leads", "project": "larchmoor", "role": "r-lead", "area": ""},
			{"group": "yard-operators", "project": "larchmoor", "role": "r-operator", "area": ""}}})
	if !strings.HasPrefix(said, "200") {
		t.Fatal(said)
	}

	b := openBrowser(t, s.base)
	b.open("/")
	b.click("Sign in at Larchmoor directory")
	b.see("A stand-in with made-up people")
	enter := func(b *browser, name, password string) {
		b.fill("Directory name", name)
		b.fill("Directory password", password)
		b.click("Go on")
	}
	enter(b, "hazel", "thorn-and-holly")
	b.see("none of your groups there has a role here")
	c := openBrowser(t, s.base)
	c.open("/")
	c.click("Sign in at Larchmoor directory")
	enter(c, "rowan", "maple-and-lime")
	c.see("Rowan Maple")

	c.open("/desk/larchmoor/s-car")
	c.see("Set zero here", "Deceleration", "500")
	c.decelerate("180")
	c.click("Sign at Larchmoor directory")
	window := c.popup()
	window.see("A stand-in with made-up people")
	enter(window, "wren", "hazel-and-sloe")
	c.see("Wren Hazel gave their password at the directory just now.")
	c.click("Send")
	c.see("Deceleration: 180")

	// One that comes to nothing is said, and the page goes on.
	c.decelerate("190")
	side.Close()
	time.Sleep(100 * time.Millisecond)
	c.click("Sign at Larchmoor directory")
	c.see("does not answer")
	c.keys("\x1b")
}
