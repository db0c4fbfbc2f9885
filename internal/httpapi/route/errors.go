package route

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/calendar"
	"upperlantern/internal/carrier"
	"upperlantern/internal/carriers"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/carrying"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/office"
	"upperlantern/internal/core/report"
	"upperlantern/internal/core/seek"
	"upperlantern/internal/desks"
	"upperlantern/internal/editing"
	"upperlantern/internal/exchange"
	"upperlantern/internal/exporting"
	"upperlantern/internal/founding"
	"upperlantern/internal/importer"
	"upperlantern/internal/letters"
	"upperlantern/internal/messages"
	"upperlantern/internal/password"
	"upperlantern/internal/readaloud"
	"upperlantern/internal/reading"
	"upperlantern/internal/reporting"
	"upperlantern/internal/sending"
	"upperlantern/internal/shelf"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/translation"
	"upperlantern/internal/typeset"
)

// explained are errors whose own words tell a person what is wrong.
var explained = []error{
	sending.ErrBlocked, calendar.ErrUnread, readaloud.ErrSilent, readaloud.ErrLanguage, intake.ErrNoName, intake.ErrNoRows,
	intake.ErrUnread, intake.ErrMapping, exchange.ErrEmpty, exchange.ErrNotCSV, exchange.ErrHeadings,
	exchange.ErrBomb, exchange.ErrTooMuch, exchange.ErrBrokenZip, exchange.ErrWorkbook, exchange.ErrZipContents,
	exchange.ErrOneRoster, exchange.ErrVCard,
	exchange.ErrXLIFF, exchange.ErrTMX, exchange.ErrGlossary, exchange.ErrFormat, editing.ErrCannot, editing.ErrNobody,
	messages.ErrNotKept, messages.ErrNobodyGot, messages.ErrNotSent, shelf.ErrNotKept, sending.ErrUnfit,
	sending.ErrNobodyHere, seek.ErrUnfit, messages.ErrTaken, importer.ErrUnmapped, letters.ErrNone,
	translation.ErrUnfit, reading.ErrUnfit, password.ErrWeak, office.ErrUnfit, founding.ErrCannot,
	intake.ErrQuestions, exchange.ErrEncoding, carrying.ErrUnfit, carriers.ErrNot, carrier.ErrNoResults,
	report.ErrUnfit, exporting.ErrUnfit, standin.ErrUnknown, standin.ErrRefused, exporting.ErrAtOnce, desks.ErrRefused,
	desk.ErrName, sending.ErrAsksNothing,
}

// DiskFull tells a person what a full disk means for them.
const DiskFull = "The program's disk is full: nothing was saved. What you typed is still on your screen, and everything goes on when there is room."

// Problem turns an error into an RFC 9457 answer. What a person can cause gets
// its own words; anything else is logged and answered without detail.
func (k Kit) Problem(ctx context.Context, err error) error {
	var answer huma.StatusError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &answer): // it says already how it is answered
		return err
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound("This does not exist, or no longer does.")
	case errors.Is(err, store.ErrConflict):
		return huma.Error409Conflict(
			"This was changed in another window or by somebody else. Nothing was overwritten; load it again to see it.",
		)
	case errors.Is(err, sending.ErrChanged):
		return huma.Error409Conflict(Sentence(err))
	case errors.Is(err, carrier.ErrTranslation):
		return huma.Error502BadGateway(Sentence(err))
	case errors.Is(err, access.ErrNotYours), errors.Is(err, reporting.ErrReads),
		errors.Is(err, exporting.ErrRight):
		return huma.Error403Forbidden(Sentence(err))
	case slices.ContainsFunc(explained, func(e error) bool { return errors.Is(err, e) }):
		return huma.Error422UnprocessableEntity(Sentence(err))
	case errors.Is(err, store.ErrTaken):
		return huma.Error409Conflict(
			"Nothing was changed: an id or a name in it belongs to somebody or something else already, perhaps beyond your units.",
		)
	case errors.Is(err, store.ErrInUse):
		return huma.Error409Conflict("Nothing was changed: it refers to something that was deleted in the meantime.")
	case errors.Is(err, store.ErrFull):
		return huma.NewError(http.StatusInsufficientStorage, DiskFull)
	case errors.Is(err, typeset.ErrNoFonts):
		return huma.Error503ServiceUnavailable(
			"The fonts of the interface are not here, so no letters can be written. Print them from the page instead.",
		)
	case errors.Is(err, context.Canceled):
		return huma.NewError(499, "The request was given up.")
	}
	k.Log.ErrorContext(ctx, "answering a request", "error", err)
	return huma.Error500InternalServerError(
		"Something went wrong here. What you typed is still on your screen; try again.",
	)
}

// Sentence begins an error with a capital and ends it with a full stop.
func Sentence(err error) string {
	words := []rune(err.Error())
	if len(words) > 0 && words[0] >= 'a' && words[0] <= 'z' {
		words[0] -= 'a' - 'A'
	}
	if last := words[len(words)-1]; last != '.' {
		words = append(words, '.')
	}
	return string(words)
}

// Write answers where no typed handler is reached.
func Write(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(&huma.ErrorModel{Title: http.StatusText(status), Status: status, Detail: detail})
}
