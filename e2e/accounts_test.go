package e2e_test

import (
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/testkit"
)

// mailed waits for the link in the latest email to a mailbox.
func (v *visit) mailed(mailbox string) (path string) {
	v.t.Helper()
	link := regexp.MustCompile(`/pass/\w+`)
	testkit.Eventually(v.t, "a link for "+mailbox, func() bool {
		items, err := v.instance.Box.Received(v.t.Context(), []string{mailbox})
		if err != nil || len(items) == 0 {
			return false
		}
		path = link.FindString(items[0].Body)
		return path != ""
	})
	return path
}

// Somebody is invited, chooses a password, sets a second factor up, comes in with a code
// of it, and asks for a new password.
func TestSomebodyIsInvited(t *testing.T) {
	v := signedIn(t, testkit.Roster, time.Hour)
	v.goes("/settings")
	v.clicks("button", "Add an account")
	v.sees("label", "^Name").MustElement("input").MustInput("Una Tarnbeck")
	v.sees("label", "^Mail address").MustElement("input").MustInput("una@quillmere.example")
	v.clicks("label", "the whole organisation")
	v.clicks("button", "Save and invite")
	v.sees("[role=status]", "on its way to una@quillmere.example")
	v.sees("td", "invited, until")

	una := v.another(v.instance.URL, 1280, 800)
	una.goes(v.mailed("una@quillmere.example"))
	una.sees("h1", "Welcome, Una Tarnbeck")
	una.isAccessible(t)
	for _, label := range []string{"^Password", "^The password again"} {
		una.sees("label", label).MustElement("input").MustInput("otter gravel teapot")
	}
	una.clicks("button", "Set the password")
	una.clicks("a", "Go on")
	una.sees("h1", "Today")

	una.goes("/account")
	una.type_(named("Second factor")+" input[type=password]", "otter gravel teapot")
	una.clicks("button", "Set it up")
	secret := strings.ReplaceAll(una.element(".secret").MustText(), " ", "")
	type_ := func() {
		code, err := totp.GenerateCode(secret, time.Now())
		require.NoError(t, err)
		una.type_("input[autocomplete=one-time-code]", code)
	}
	type_()
	una.isAccessible(t)
	una.clicks("button", "Turn it on")
	recovery := una.sees(".codes li:first-child", "-").MustText()
	una.clicks("button", "I have them")
	una.sees(named("Second factor"), "10 recovery codes are left")

	una.element("button.me").MustClick()
	una.clicks("[role=menuitem]", "Sign out")
	una.sees("h1", "Sign in")
	una.type_("#login", "una@quillmere.example")
	una.type_("#password", "otter gravel teapot")
	una.clicks("button", "^Sign in$")
	una.type_("#code", "123456")
	una.clicks("button", "^Sign in$")
	una.sees("[role=alert]", "This code does not count")
	una.element("#code").MustSelectAllText().MustInput(strings.ToUpper(recovery))
	una.clicks("button", "^Sign in$")
	una.sees("h1", "Today")

	stranger := v.another(v.instance.URL, 1280, 800)
	stranger.clicks("button", "Forgotten your password")
	stranger.type_("#login", testkit.Login)
	stranger.clicks("button", "Send me a link")
	stranger.sees("[role=status]", "on its way")
	stranger.goes(v.mailed(testkit.Login))
	stranger.sees("h1", "A new password for Hugo Farrowby")
	for _, label := range []string{"^Password", "^The password again"} {
		stranger.sees("label", label).MustElement("input").MustInput("kettle barn swim")
	}
	stranger.clicks("button", "Set the password")
	stranger.sees("h1", "Your password is set")
	v.goes("/people")
	v.sees("h1", "Sign in") // every session of the account has ended
}
