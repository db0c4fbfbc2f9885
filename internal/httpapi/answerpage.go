package httpapi

import (
	"crypto/rand"
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

// backView is the box to write back.
type backView struct {
	Label, Button string
	Words         string // that were written and not taken
	Nonce         string
}

// answerView is the page.
type answerView struct {
	Tag, Dir, Organisation, Title, Text string
	Says                                string
	Fails                               bool
	Who, MinutesLabel, Send, Yours      string
	People                              []answererView
	Choices                             []choiceView
	AsksMinutes                         bool
	Sure                                *sureView
	Know                                string // the button that confirms; "" for none
	Back                                *backView
}

// longestNonce is the longest key of something that is written back.
const longestNonce = 40

// answer shows a recipient the page of what they got, and keeps what they answer. A link
// alone answers nothing: programs look at links, too.
func (s *server) answer(w http.ResponseWriter, r *http.Request) {
	key, ok := s.AnswerKey(chi.URLParam(r, "token"))
	if !ok {
		route.Write(w, http.StatusNotFound, "This link is not one of ours.")
		return
	}
	number, _ := strconv.Atoi(r.FormValue("say")) // of nothing that is no number
	who, _ := strconv.ParseInt(r.FormValue("who"), 10, 64)
	var said error
	if r.Method == http.MethodPost {
		said = s.takeAnswer(r, key, number, roster.PersonID(who))
	}
	asked, err := s.Desks.Ask(r.Context(), key)
	switch {
	case errors.Is(err, store.ErrNotFound):
		route.Write(w, http.StatusNotFound, "This message asks nothing any more.")
		return
	case err != nil:
		s.Log.Error("showing the page of a delivery", "error", err)
		route.Write(w, http.StatusServiceUnavailable, "This page cannot be shown. Try it again in a minute.")
		return
	}
	page := viewAnswer(asked, number, roster.PersonID(who))
	if r.Method != http.MethodPost {
		showGuest(w, http.StatusOK, "answer", page)
		return
	}
	status := s.sayTaken(&page, asked, number, r.PostFormValue("text"), said)
	showGuest(w, status, "answer", page)
}

// takeAnswer keeps what was posted from the page of a delivery: words, that they know, or
// an answer.
func (s *server) takeAnswer(r *http.Request, key string, number int, who roster.PersonID) error {
	switch {
	case r.PostForm.Has("text"):
		nonce := r.PostFormValue("nonce")
		if nonce == "" || len(nonce) > longestNonce {
			return desks.ErrRefused
		}
		return s.Desks.WriteBack(r.Context(), key, nonce, r.PostFormValue("text"), who)
	case r.PostForm.Has("know"):
		return s.Desks.Know(r.Context(), key)
	}
	minutes, _ := strconv.Atoi(r.FormValue("minutes"))
	return s.Desks.Say(r.Context(), key, asking.Given{Number: number, Minutes: minutes}, who)
}

// sayTaken puts on the page what came of what was posted, and returns its status. What was
// written and not taken stays in its box.
func (s *server) sayTaken(page *answerView, asked desks.Asked, number int, text string, err error) int {
	words := asked.Words
	if err != nil && page.Back != nil {
		page.Back.Words = text
	}
	switch {
	case err == nil && text != "":
		page.Says = words.Say("own wrote") + ": " + text
	case err == nil && number > 0:
		page.Sure = nil
		page.Says = words.Say("question thanks", "answer", wordsOf(asked, number)) + " " + words.Say("question change")
	case err == nil: // that they confirmed stands on the page from now on
	case errors.Is(err, desks.ErrTooMuch):
		page.Fails, page.Says = true, words.Say("own much")
		return http.StatusTooManyRequests
	default:
		page.Fails, page.Says = true, words.Say("question failed")
		if errors.Is(err, desks.ErrRefused) || errors.Is(err, store.ErrNotFound) {
			return http.StatusUnprocessableEntity
		}
		s.Log.Error("keeping an answer", "error", err)
		return http.StatusServiceUnavailable
	}
	return http.StatusOK
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
		Title: a.Title, Text: a.Text, Who: words.Say("question who"), MinutesLabel: words.Say("question minutes"),
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
	switch a.Knows {
	case desks.NotYet:
		page.Know = words.Say("own know")
	case desks.Confirmed:
		page.Says = words.Say("own known")
	}
	if a.Writes {
		page.Back = &backView{Label: words.Say("own back"), Button: words.Say("own send"), Nonce: rand.Text()}
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
