package httpapi

import (
	"errors"
	"net/http"

	"github.com/go-chi/chi/v5"

	"upperlantern/internal/core/phrase"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/store"
)

// OneClickPath is below which recipients end emails of a kind (RFC 8058).
const OneClickPath = "/stop/"

// oneClick answers the link of an email by which its recipient gets no more of its kind:
// it asks, or says what was done. Mail programs post to it themselves.
func (s *server) oneClick(w http.ResponseWriter, r *http.Request) {
	key, ok := s.OneClickKey(chi.URLParam(r, "token"))
	if !ok {
		route.Write(w, http.StatusNotFound, "This link is not one of ours.")
		return
	}
	do := r.Method == http.MethodPost
	again := do && r.FormValue("again") != ""
	ended, err := s.Desks.OneClick(r.Context(), key, do, again)
	if errors.Is(err, store.ErrNotFound) {
		route.Write(w, http.StatusNotFound, "Nobody on our roster has this address any more, so there is nothing to end.")
		return
	}
	if err != nil {
		s.Log.Error("ending emails with one click", "error", err)
		route.Write(w, http.StatusServiceUnavailable, "This could not be kept. Try it again in a minute.")
		return
	}
	over := do && !again || !do && ended.Before // they get no more of them
	says, button := phrase.Key("one click ask"), phrase.Key("one click end")
	if over {
		says, button = "one click ended", "one click back"
	}
	if again {
		says = "one click resumed"
	}
	words := ended.Words
	showGuest(w, http.StatusOK, "one-click", map[string]any{
		"Tag": words.Tag, "Dir": map[bool]string{true: "rtl", false: "ltr"}[words.Rtl], "Organisation": ended.Organisation,
		"Says":   words.Say(says, "organisation", ended.Organisation, "address", ended.Address),
		"Button": words.Say(button), "Again": over,
	})
}
