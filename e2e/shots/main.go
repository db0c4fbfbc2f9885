// Command shots takes the pictures in docs/screenshots from the demo data.
package main

import (
	"context"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strconv"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"

	"upperlantern/e2e/browser"
	"upperlantern/internal/app"
	"upperlantern/internal/demo"
	"upperlantern/web"
)

const (
	width, height           = 1280, 800
	phoneWidth, phoneHeight = 360, 740
	// settle lets figures, fonts and the preview arrive; pictures need no more than to look right.
	settle = 900 * time.Millisecond
)

func main() {
	folder := "docs/screenshots"
	if len(os.Args) > 1 {
		folder = os.Args[1]
	}
	only := ""
	if len(os.Args) > 2 {
		only = os.Args[2]
	}
	if err := run(context.Background(), folder, only); err != nil {
		fmt.Fprintln(os.Stderr, "shots:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, folder, only string) error {
	data, err := os.MkdirTemp("", "lantern-shots-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(data) //nolint:errcheck // a temporary folder
	log := slog.New(slog.DiscardHandler)
	if err := demo.Create(ctx, data, "", time.Now(), log); err != nil {
		return err
	}
	instance, err := app.Start(ctx, app.Config{
		Data: data, Address: "127.0.0.1:0", Carriers: app.Carriers{StandIns: true}, DemoPassword: demo.Password,
		Files: web.Files(), Log: log,
	})
	if err != nil {
		return err
	}
	defer instance.Close() //nolint:errcheck // the pictures are taken
	b, closeBrowser, err := browser.Launch()
	if err != nil {
		return err
	}
	defer closeBrowser()
	w, h := size()
	page, err := browser.Page(b, instance.URL, w, h)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return err
	}
	s := &shooter{page: page.Timeout(2 * time.Minute), url: instance.URL, folder: folder, only: only}
	err = rod.Try(s.all)
	if err != nil { // show what the page looked like
		_ = browser.Shoot(page, filepath.Join(folder, "failed.png"))
	}
	return err
}

func size() (int, int) {
	if w, err := strconv.Atoi(os.Getenv("WIDTH")); err == nil {
		return w, height
	}
	return width, height
}

type shooter struct {
	page              *rod.Page
	url, folder, only string
}

func (s *shooter) shot(name string) {
	s.page.MustWaitIdle()
	time.Sleep(settle)
	if s.only != "" && s.only != name {
		return
	}
	if err := browser.Shoot(s.page, filepath.Join(s.folder, name+".png")); err != nil {
		panic(err)
	}
}

func (s *shooter) open(path string) { s.page.MustNavigate(s.url + path).MustWaitLoad() }

// click clicks the first element with a selector whose text matches.
func (s *shooter) click(selector, text string) { s.page.MustElementR(selector, text).MustClick() }

func (s *shooter) all() {
	s.page.MustElementR("button", "Naya Osei")
	s.click("button", "Hugo Farrowby")
	s.page.MustElementR("h1", "Today")
	s.page.MustElement(".live")
	s.shot("today")
	s.desk()
	s.open("/outgoing")
	s.page.MustElementR("h1", "Outgoing")
	s.shot("outgoing")
	s.click("td a", "Are you safe")
	s.click("a", "Open the board")
	s.page.MustElement(".marks")
	s.shot("board")
	s.open("/outgoing/1")
	s.page.MustElementR("h3", "Everybody")
	s.page.MustElement(`[aria-label="Arrivals over time"] canvas`)
	s.shot("record")
	s.click("button.todo", "Another channel")
	s.page.MustElement(".needs li")
	s.shot("needs")
	s.page.Keyboard.MustType(input.Escape)
	s.open("/reports")
	s.page.MustElement("figure canvas")
	s.shot("reports")
	s.people()
	s.jobs()
	s.order()
	s.imports()
	s.write()
	s.open("/bench")
	s.page.MustElementR("aside button bdi", ".")
	s.shot("bench")
}

// desk answers somebody in another language.
func (s *shooter) desk() {
	s.open("/desks/1")
	s.click("nav li button", "Zofia")
	s.page.MustElementR(".ledger", "wetsuit")
	s.page.MustElement(`[aria-label="What you answer"]`).
		MustInput("The drill stays on Thursday at the pool, 17:45. Wetsuits are not needed there.")
	s.page.MustElementR(".copy", "Pianki")
	s.shot("desk")
}

func (s *shooter) people() {
	s.open(`/people?rule=[{"on":"role","test":"is","value":"guardian"},{"on":"channel","test":"is-not","value":"email"}]`)
	s.page.MustElementR(".stack li", "cannot be reached by email")
	for n := range 3 {
		s.page.MustElement(fmt.Sprintf("tbody tr.go:nth-of-type(%d) input", n+2)).MustClick()
	}
	s.shot("people")
	s.open("/people?search=Jarz%C4%99bina")
	s.click("td .link", "Kinga")
	s.page.MustElement("aside.drawer .barred")
	s.shot("person")
}

// jobs shows a job for which it was asked who is coming.
func (s *shooter) jobs() {
	s.open("/jobs")
	s.click("nav li button", "Pump at the mill")
	s.page.MustElementR("h2", "Pump at the mill")
	s.page.MustElementR("section li", "said that they come")
	s.shot("jobs")
}

// order is how messages leave, and what those see who get them.
func (s *shooter) order() {
	s.carriers()
	s.own()
}

// own is the page of somebody without an account, on their phone.
func (s *shooter) own() {
	path := s.page.MustEval(`async () => {
		const asked = async (path, body) => (await fetch("/api" + path, {
			method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body),
		})).json()
		const found = await asked("/people/search", { search: "Zofia Górna" })
		return (await asked("/people/" + found.people[0].id + "/link")).path
	}`).Str()
	s.page.MustSetViewport(phoneWidth, phoneHeight, 2, true)
	s.open(path)
	s.click("article button", ".")
	s.page.MustElement("article textarea")
	s.shot("own")
	w, h := size()
	s.page.MustSetViewport(w, h, 1, false)
}

// carriers is how messages leave, with carriers of one's own beside the stand-ins.
func (s *shooter) carriers() {
	for _, setup := range []string{
		`{"channel":"email","name":"The club’s mail server","rests":false,"perSecond":5,"perDay":2000,"perDomain":60,
			"server":{"host":"mail.quillmere.example","port":587,"security":"starttls","user":"office","selector":""}}`,
		`{"channel":"text","name":"Marsh gateway","rests":false,"perSecond":0,"perDay":500,
			"gateway":{"url":"https://gateway.example.org/texts","template":""}}`,
		`{"channel":"text","name":"The modem in the boat house","rests":false,"perSecond":0.5,"perDay":0,
			"gateway":{"url":"https://modem.quillmere.example/texts","template":""}}`,
	} {
		s.page.MustEval(`setup => fetch("/api/settings/carriers", {method: "POST", headers: {"Content-Type": "application/json"},
			body: JSON.stringify({setup: JSON.parse(setup), given: {password: "gravel", token: "gravel"}})})`, setup)
	}
	s.open("/settings?of=carriers")
	s.click("li button", "club’s mail server")
	s.page.MustElementR("h2", "A trial to yourself")
	s.shot("carriers")
}

func (s *shooter) imports() {
	s.open("/people/import")
	s.page.MustElement("input[type=file]").MustSetFiles(newMembers())
	s.page.MustElementR("h2", "How the columns")
	s.shot("import")
}

func (s *shooter) write() {
	s.open("/write/3")
	s.page.MustElementR(".reach h3", "gets it")
	s.shot("write")
	s.page.MustElement(`[aria-label="Copies"]`).MustEval(`() => this.scrollIntoView()`)
	s.shot("copies")
	s.click("button", "Send to")
	s.page.MustElementR("h2", "Before it leaves")
	s.shot("final-check")
	s.page.Keyboard.MustType(input.Escape)
	s.open("/write/3/copies/ar")
	s.page.MustElementR("h2", "Arabic")
	s.click(`[aria-label="Line 3"]`, "Thursday")
	s.shot("copy")
	s.reading()
}

// reading is the page of a reader, on a phone.
func (s *shooter) reading() {
	path := s.page.MustEval(
		`async () => (await (await fetch("/api/messages/3/readings")).json()).find((r) => r.language === "ar").path`,
	).Str()
	s.page.MustSetViewport(phoneWidth, phoneHeight, 2, true)
	s.open(path)
	s.page.MustElement("ol li")
	s.shot("reading")
	w, h := size()
	s.page.MustSetViewport(w, h, 1, false)
}

// newMembers is a file as a club office would have it, with a few slips.
func newMembers() string {
	path := filepath.Join(os.TempDir(), "new members.csv")
	rows := "Member no;First name;Surname;Type;Language;Mobile;E-mail;Team;Locker\r\n" +
		"M0201;Ottilie;Venn;member;English;07700 900 871;ottilie.venn@example.org;Adult members > Learn to row;12\r\n" +
		"M0202;Szymon;Stręk;member;polski;+44 7700 900872;szymon.strek@example.org;Adult members > Learn to row;13\r\n" +
		"M0203;Hala;Qasimi;member;ar;0044 7700 900873;;Adult members > Learn to row;\r\n" +
		"M0204;Rhona;;member;river;07700 900;rhona@@example.org;Adult members > Learn to row;14\r\n" +
		"M0205;Caio;Jardim;member;pt-BR;;caio.jardim@post.example;Adult members > Tuesday pairs;\r\n" +
		"M0201;Ottilie;Venn;member;English;;;;12\r\n" +
		"M0206;;;member;en;07700 900876;;;\r\n" +
		"M0207;Đức;Trần;member;Vietnamese;(07700) 900-877;duc.tran@example.org;Adult members > Tuesday pairs;15\r\n"
	if err := os.WriteFile(path, []byte(rows), 0o644); err != nil {
		panic(err)
	}
	return path
}
