package letters

import (
	"context"
	"errors"
	"os"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/field"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
	"upperlantern/internal/typeset"
)

// Plans works out drafts, for whoever sends them.
type Plans interface {
	Plan(ctx context.Context, id int64, draft message.Draft, sender access.Principal) (*sending.Worked, error)
}

// Files knows where the content of an uploaded file is, by its hash.
type Files interface {
	FilePath(hash string) string
}

// Service writes a message on paper.
type Service struct {
	Plans Plans
	Files Files
	Fonts func() (*typeset.Fonts, error)
	Now   func() time.Time
}

// Most is how many letters are written in one go.
const Most = 500

// ErrNone means that there is nobody to write a letter to.
var ErrNone = errors.New("there are no letters: every recipient is reached by another channel")

// Written are the letters of a draft.
type Written struct {
	Batch
	Missing []field.Name // by letter: a field that nothing fills
	All     int          // how many there are, written or not
}

// Write writes a draft to those whom no channel reaches, or to the households of
// the people given, in their languages as far as the message with the id has copies.
func (s *Service) Write(
	ctx context.Context, id int64, draft message.Draft, people []roster.PersonID, by access.Principal,
) (Written, error) {
	w, err := s.Plans.Plan(ctx, id, draft, by)
	if err != nil {
		return Written{}, err
	}
	list := w.Plan.Letters(w.Roster, people)
	out := Written{All: len(list), Batch: Batch{
		Organisation: w.Organisation.Name, Language: w.Organisation.Language,
		Date:    phrase.Date(w.Organisation.Language, s.Now().In(w.Plan.Settings.Zone(""))),
		Picture: s.picture,
	}}
	today := s.Now().In(w.Plan.Settings.Zone(""))
	for _, l := range list[:min(len(list), Most)] {
		out.Letters = append(out.Letters, Letter{
			Names: names(w.Roster, l), Address: l.Address, Subject: l.Subject, Body: l.Body,
			Languages: l.Languages, Date: phrase.Date(l.Languages[0], today),
		})
		out.Missing = append(out.Missing, l.Missing)
	}
	return out, nil
}

func names(r *roster.Roster, l plan.Letter) []string {
	list := make([]string, len(l.People))
	for i, person := range l.People {
		list[i] = r.At(person).Name()
	}
	return list
}

// picture is the content of a picture; one that is gone is left out.
func (s *Service) picture(hash string) []byte {
	content, err := os.ReadFile(s.Files.FilePath(hash))
	if err != nil {
		return nil
	}
	return content
}

// PDF is what Write writes, as a file to print.
func (s *Service) PDF(
	ctx context.Context, id int64, draft message.Draft, people []roster.PersonID, by access.Principal,
) ([]byte, error) {
	written, err := s.Write(ctx, id, draft, people, by)
	if err != nil {
		return nil, err
	}
	if len(written.Letters) == 0 {
		return nil, ErrNone
	}
	fonts, err := s.Fonts()
	if err != nil {
		return nil, err
	}
	return Write(fonts, written.Batch)
}
