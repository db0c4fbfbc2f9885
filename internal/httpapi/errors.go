package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/calendar"
	"upperlantern/internal/core/intake"
	"upperlantern/internal/editing"
	"upperlantern/internal/exchange"
	"upperlantern/internal/readaloud"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

// explained are errors whose own words tell a person what is wrong.
var explained = []error{
	sending.ErrBlocked, calendar.ErrUnread, readaloud.ErrSilent, readaloud.ErrLanguage, intake.ErrNoName, intake.ErrNoRows,
	intake.ErrUnread, intake.ErrMapping, exchange.ErrEmpty, exchange.ErrNotCSV, exchange.ErrHeadings,
	exchange.ErrBomb, exchange.ErrTooMuch, exchange.ErrBrokenZip, exchange.ErrWorkbook, exchange.ErrZipContents,
	exchange.ErrOneRoster, exchange.ErrVCard,
	exchange.ErrFormat, editing.ErrCannot, editing.ErrNobody,
}

// diskFull tells a person what a full disk means for them.
const diskFull = "The program's disk is full: nothing was saved. What you typed is still on your screen, and everything goes on when there is room."

// problem turns an error into an RFC 9457 answer. What a person can cause gets
// its own words; anything else is logged and answered without detail.
func (s *server) problem(ctx context.Context, err error) error {
	switch {
	case err == nil:
		return nil
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound("This does not exist, or no longer does.")
	case errors.Is(err, store.ErrConflict):
		return huma.Error409Conflict(
			"This was changed in another window or by somebody else. Nothing was overwritten; load it again to see it.",
		)
	case errors.Is(err, sending.ErrChanged):
		return huma.Error409Conflict(sentence(err))
	case errors.Is(err, editing.ErrNotYours):
		return huma.Error403Forbidden(sentence(err))
	case slices.ContainsFunc(explained, func(e error) bool { return errors.Is(err, e) }):
		return huma.Error422UnprocessableEntity(sentence(err))
	case errors.Is(err, store.ErrTaken):
		return huma.Error409Conflict(
			"Nothing was changed: an id or a name in it belongs to somebody or something else already, perhaps beyond your units.",
		)
	case errors.Is(err, store.ErrInUse):
		return huma.Error409Conflict("Nothing was changed: it refers to something that was deleted in the meantime.")
	case errors.Is(err, store.ErrFull):
		return huma.NewError(http.StatusInsufficientStorage, diskFull)
	case errors.Is(err, errBusy):
		return busy()
	case errors.Is(err, context.Canceled):
		return huma.NewError(499, "The request was given up.")
	}
	s.Log.ErrorContext(ctx, "answering a request", "error", err)
	return huma.Error500InternalServerError(
		"Something went wrong here. What you typed is still on your screen; try again.",
	)
}

// sentence begins an error with a capital and ends it with a full stop.
func sentence(err error) string {
	words := []rune(err.Error())
	if len(words) > 0 && words[0] >= 'a' && words[0] <= 'z' {
		words[0] -= 'a' - 'A'
	}
	if last := words[len(words)-1]; last != '.' {
		words = append(words, '.')
	}
	return string(words)
}

// writeProblem answers where no typed handler is reached.
func writeProblem(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(&huma.ErrorModel{Title: http.StatusText(status), Status: status, Detail: detail})
}
