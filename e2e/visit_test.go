package e2e_test

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"upperlantern/e2e/browser"
	"upperlantern/internal/app"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
	"upperlantern/web"
)

var chromium *rod.Browser

func TestMain(m *testing.M) {
	b, closeBrowser, err := browser.Launch()
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	chromium = b
	code := m.Run()
	closeBrowser()
	os.Exit(code)
}

// longestVisit ends a test whose page hangs.
const longestVisit = 3 * time.Minute

// visit is somebody at the real page.
type visit struct {
	t        *testing.T
	instance *app.Instance
	page     *rod.Page
}

// begin starts the program on a small roster and opens its first page.
func begin(t *testing.T, roster string, hold time.Duration) *visit {
	t.Helper()
	return opens(t, testkit.Folder(t, roster, func(o *store.Organisation) { o.Hold = hold }), time.Now)
}

// opens starts the program on a data folder, by a clock, and opens its first page.
func opens(t *testing.T, folder string, now func() time.Time) *visit {
	t.Helper()
	return runs(t, folder, func(c *app.Config) { c.Now = now })
}

// runs starts the program on a data folder as it is told, and opens its first page.
func runs(t *testing.T, folder string, change func(*app.Config)) *visit {
	t.Helper()
	t.Parallel()
	instance := testkit.Start(t, folder, func(c *app.Config) {
		c.Files, c.Now = web.Files(), time.Now
		change(c)
	})
	page, err := browser.Page(chromium, instance.URL, 1280, 800)
	require.NoError(t, err)
	whole := page
	page = page.Timeout(longestVisit)
	t.Cleanup(func() {
		if t.Failed() { // what the page looked like
			path := filepath.Join(os.TempDir(), strings.ReplaceAll(t.Name(), "/", "-")+".png")
			t.Logf("see %s: %v", path, browser.Shoot(whole, path))
		}
		_ = whole.Timeout(browser.Patience).Close()
	})
	return &visit{t, instance, page}
}

// finalCheck is the last look before sending.
var finalCheck = named("Final check")

// named finds a part of a page by the name it has for those who do not see it.
func named(name string) string { return fmt.Sprintf(`[aria-label="%s"]`, name) }

// signedIn begins and signs in as the test account.
func signedIn(t *testing.T, roster string, hold time.Duration) *visit {
	v := begin(t, roster, hold)
	v.signsIn(testkit.Login, testkit.Password)
	return v
}

func (v *visit) signsIn(login, password string) {
	v.t.Helper()
	v.type_("#login", login)
	v.type_("#password", password)
	v.page.Keyboard.MustType(input.Enter)
	v.sees("h1", "Today")
}

// another is somebody else at the same program, in a browser of their own.
func (v *visit) another(url string, width, height int) *visit {
	v.t.Helper()
	page, err := browser.Page(chromium, url, width, height)
	require.NoError(v.t, err)
	v.t.Cleanup(page.MustClose)
	return &visit{v.t, v.instance, page.Timeout(longestVisit)}
}

func (v *visit) patient() *rod.Page { return v.page.Timeout(browser.Patience) }

// must stops the test with the place where the page differed.
func (v *visit) must(err error, what string) {
	v.t.Helper()
	require.NoError(v.t, err, what)
}

func (v *visit) element(selector string) *rod.Element {
	v.t.Helper()
	e, err := v.patient().Element(selector)
	v.must(err, "looking for "+selector)
	return e.CancelTimeout()
}

// sees waits for an element whose text matches a regular expression.
func (v *visit) sees(selector, text string) *rod.Element {
	v.t.Helper()
	e, err := v.patient().ElementR(selector, text)
	v.must(err, fmt.Sprintf("looking for %q in %s", text, selector))
	return e.CancelTimeout()
}

// longestTry is how long one element is tried to be clicked.
const longestTry = 10 * time.Second

func (v *visit) clicks(selector, text string) {
	v.t.Helper()
	var err error
	for deadline := time.Now().Add(browser.Patience); time.Now().Before(deadline); {
		// What cannot be pressed yet, because a figure is on its way, soon can. What was
		// taken off the page meanwhile never can, and is looked for again.
		e := v.sees(selector, text).Timeout(longestTry)
		if err = e.WaitStableRAF(); err != nil { // it moves while figures arrive
			continue
		}
		if err = press(e); err == nil {
			return
		}
	}
	v.must(err, "clicking "+text)
}

// press clicks an element and makes sure that the click met it: what arrives
// above it may move it between looking where it is and pressing there.
func press(e *rod.Element) error {
	if _, err := e.Eval(`() => {
		this.pressed = false
		this.addEventListener("click", () => { this.pressed = true }, { once: true, capture: true })
	}`); err != nil {
		return err
	}
	if err := e.Click("left", 1); err != nil {
		return err
	}
	met, err := e.Eval(`() => this.pressed || !this.isConnected`)
	if err == nil && !met.Value.Bool() {
		return errors.New("it moved away under the click")
	}
	return nil // an error here: the click led to another page
}

// saves returns what waits for the next file that is saved and reads it. Each visit has
// a folder of its own: several save at the same time.
func (v *visit) saves() func() []byte {
	v.t.Helper()
	folder := v.t.TempDir()
	b := v.page.Browser()
	err := proto.BrowserSetDownloadBehavior{
		Behavior: proto.BrowserSetDownloadBehaviorBehaviorAllow, BrowserContextID: b.BrowserContextID, DownloadPath: folder,
	}.Call(b)
	v.must(err, "saying where files are saved")
	return func() []byte {
		var content []byte
		testkit.Eventually(v.t, "a file is saved", func() bool {
			files, err := filepath.Glob(filepath.Join(folder, "*"))
			if err != nil || len(files) != 1 || strings.HasSuffix(files[0], ".crdownload") {
				return false
			}
			content, err = os.ReadFile(files[0])
			return err == nil && len(content) > 0
		})
		return content
	}
}

func (v *visit) type_(selector, text string) {
	v.t.Helper()
	v.must(v.element(selector).Input(text), "typing into "+selector)
}

// picks types a name into a box that finds things and takes the first hit.
func (v *visit) picks(label, name string) {
	v.t.Helper()
	v.type_(fmt.Sprintf(`input[aria-label="%s"]`, label), name)
	v.clicks("li[role=option]", name)
}

// chooses opens the list of a field with choices, by the field's name, and takes one.
func (v *visit) chooses(name, choice string) {
	v.t.Helper()
	field, err := v.patient().ElementByJS(rod.Eval(`name => [...document.querySelectorAll(".v-select")].find(
		field => field.querySelector('[aria-label="' + name + '"]') || field.closest("label")?.innerText.startsWith(name),
	) ?? null`, name))
	v.must(err, "looking for the field "+name)
	v.must(field.Click("left", 1), "opening "+name)
	v.clicks(".v-overlay--active [role=option]", "^"+choice+"$")
	v.until(`!document.querySelector(".v-overlay--active [role=option]")`)
}

func (v *visit) goes(path string) {
	v.t.Helper()
	v.must(v.patient().Navigate(v.instance.URL+path), "going to "+path)
}

// until waits for a condition in the page, a JavaScript expression.
func (v *visit) until(expression string) {
	v.t.Helper()
	v.must(
		v.patient().Wait(rod.Eval("() => { try { return Boolean("+expression+") } catch { return false } }")),
		"waiting for "+expression,
	)
}

func (v *visit) value(selector string) string {
	v.t.Helper()
	return v.element(selector).MustEval(`() => this.value ?? this.innerText`).String()
}

func (v *visit) path() string {
	return strings.TrimPrefix(v.page.MustInfo().URL, v.instance.URL)
}

const (
	who   = "Add a group, role, name or list"
	email = `[role=textbox][aria-label="Email"]`
	text  = `[role=textbox][aria-label="Text"]`
)

// writes begins a message to the junior squads and the coaches.
func (v *visit) writes(subject, body string) {
	v.t.Helper()
	v.goes("/write/new")
	v.picks(who, "Junior squads")
	v.picks(who, "Coaches")
	v.type_(`input[aria-label="Subject"]`, subject)
	v.type_(email, body)
	v.sees(named("Reach"), "worked out just now") // and nothing moves any more
}
