package httpapi

import (
	_ "embed"
	"errors"
	"html/template"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/desks"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/store"
)

// AnswerPath is below which recipients answer a question, without an account.
const AnswerPath = "/answer/"

//go:embed guest.html
var guestPages string

// guests are the pages behind links of a message. They need no script.
var guests = template.Must(template.New("").Parse(guestPages))

// answererView is somebody who may answer.
type answererView struct {
	ID     roster.PersonID
	Name   string
	Said   string // what they answered before
	Chosen bool
}

// choiceView is an answer that can be given.
type choiceView struct {
	Number int
	Words  string
	Mine   bool // it is what they answered
}

// sureView asks once more before an answer is sent to which a link led.
type sureView struct {
	Number   int
	Sentence string
}

// answerView is the page.
type answerView struct {
	Tag, Dir, Organisation, Title  string
	Says                           string
	Fails                          bool
	Who, MinutesLabel, Send, Yours string
	People                         []answererView
	Choices                        []choiceView
	AsksMinutes                    bool
	Sure                           *sureView
}

// answer shows a recipient the question of a message, and keeps what they answer. A link
// alone answers nothing: programs look at links, too.
func (s *server) answer(w http.ResponseWriter, r *http.Request) {
	key, ok := s.AnswerKey(chi.URLParam(r, "token"))
	if !ok {
		route.Write(w, http.StatusNotFound, "This link is not one of ours.")
		return
	}
	number, _ := strconv.Atoi(r.FormValue("say")) // of nothing that is no number
	minutes, _ := strconv.Atoi(r.FormValue("minutes"))
	who, _ := strconv.ParseInt(r.FormValue("who"), 10, 64)
	var said error
	if r.Method == http.MethodPost {
		said = s.Desks.Say(r.Context(), key, asking.Given{Number: number, Minutes: minutes}, roster.PersonID(who))
	}
	asked, err := s.Desks.Ask(r.Context(), key)
	switch {
	case errors.Is(err, store.ErrNotFound):
		route.Write(w, http.StatusNotFound, "This message asks nothing any more.")
		return
	case err != nil:
		s.Log.Error("showing a question", "error", err)
		route.Write(w, http.StatusServiceUnavailable, "The question cannot be shown. Try it again in a minute.")
		return
	}
	page := viewAnswer(asked, number, roster.PersonID(who))
	status := http.StatusOK
	switch {
	case r.Method != http.MethodPost:
	case said == nil:
		page.Sure = nil
		page.Says = asked.Words.Say("question thanks", "answer", wordsOf(asked, number)) + " " + asked.Words.Say("question change")
	case errors.Is(said, desks.ErrRefused):
		status, page.Fails, page.Says = http.StatusUnprocessableEntity, true, asked.Words.Say("question failed")
	default:
		s.Log.Error("keeping an answer", "error", said)
		status, page.Fails, page.Says = http.StatusServiceUnavailable, true, asked.Words.Say("question failed")
	}
	showGuest(w, status, "answer", page)
}

// showGuest answers with a page. Whoever asked is gone if that fails.
func showGuest(w http.ResponseWriter, status int, name string, page any) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	_ = guests.ExecuteTemplate(w, name, page)
}

func viewAnswer(a desks.Asked, number int, who roster.PersonID) answerView {
	words := a.Words
	page := answerView{
		Tag: words.Tag, Dir: map[bool]string{true: "rtl", false: "ltr"}[words.Rtl], Organisation: a.Organisation,
		Title: a.Title, Who: words.Say("question who"), MinutesLabel: words.Say("question minutes"),
		Send: words.Say("question send"), Yours: words.Say("question yours"),
	}
	mine := 0
	if len(a.People) == 1 {
		mine = a.People[0].Number
	}
	for _, c := range a.Choices {
		page.Choices = append(page.Choices, choiceView{Number: c.Number, Words: c.Words, Mine: c.Number == mine})
		page.AsksMinutes = page.AsksMinutes || c.Minutes
	}
	if said := wordsOf(a, number); said != "" {
		page.Sure = &sureView{Number: number, Sentence: words.Say("question sure", "answer", said)}
	}
	if len(a.People) < 2 {
		return page
	}
	for _, p := range a.People {
		page.People = append(page.People, answererView{
			ID: p.Person, Name: p.Name, Said: wordsOf(a, p.Number), Chosen: p.Person == who,
		})
	}
	return page
}

// wordsOf are the words of an answer; "" of none.
func wordsOf(a desks.Asked, number int) string {
	if number < 1 || number > len(a.Choices) {
		return ""
	}
	return a.Choices[number-1].Words
}
