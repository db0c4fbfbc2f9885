package httpapi

import (
	"context"
	"errors"
	"os"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/letters"
	"upperlantern/internal/sending"
	"upperlantern/internal/typeset"
)

type letterView struct {
	Names   []string `json:"names"`
	Address string   `json:"address" doc:"Postal, in lines; empty when none is kept"`
	Subject string   `json:"subject"`
	HTML    string   `json:"html" doc:"Only what the editor can write, escaped"`
	Missing string   `json:"missing" doc:"A field that nothing fills"`
}

type lettersView struct {
	Organisation string       `json:"organisation"`
	Language     string       `json:"language" doc:"BCP 47"`
	Date         string       `json:"date" doc:"In words of that language"`
	Letters      []letterView `json:"letters" doc:"One for each household"`
	All          int          `json:"all" doc:"How many there are, printed or not"`
}

type lettersAsked struct {
	Body struct {
		Draft  message.Draft     `json:"draft"`
		People []roster.PersonID `json:"people,omitempty" maxItems:"200000" doc:"Instead of those whom no channel reaches"`
	}
}

// mostLetters is how many are printed in one go.
const mostLetters = 500

func (s *server) letterRoutes(api huma.API) {
	add(
		api, post("/plan/letters", "letters", "The message on paper, for those whom no channel reaches", access.Write),
		s.letters,
	)
	add(
		api, post("/plan/letters.pdf", "letters-pdf", "The same as a file to print", access.Write).gives("application/pdf"),
		s.lettersPDF,
	)
}

// writeLetters works the letters out; all is how many there are.
func (s *server) writeLetters(
	ctx context.Context, in *lettersAsked,
) (w *sending.Worked, letters []plan.Letter, all int, err error) {
	if w, err = s.work(ctx, in.Body.Draft); err != nil {
		return nil, nil, 0, err
	}
	letters = w.Plan.Letters(w.Roster, in.Body.People)
	return w, letters[:min(len(letters), mostLetters)], len(letters), nil
}

func (s *server) letterDate(w *sending.Worked) string {
	return letters.Date(w.Organisation.Language, s.Now().In(w.Plan.Settings.Zone("")))
}

func namesOf(w *sending.Worked, l plan.Letter) []string {
	names := make([]string, len(l.People))
	for i, person := range l.People {
		names[i] = w.Roster.At(person).Name()
	}
	return names
}

func (s *server) letters(ctx context.Context, in *lettersAsked) (*body[lettersView], error) {
	w, letters, all, err := s.writeLetters(ctx, in)
	if err != nil {
		return nil, err
	}
	out := lettersView{
		Organisation: w.Organisation.Name, Language: w.Organisation.Language, Date: s.letterDate(w), Letters: []letterView{},
		All: all,
	}
	for _, l := range letters {
		out.Letters = append(out.Letters, letterView{
			namesOf(w, l), l.Address, l.Subject, l.Body.HTML(fileSource), string(l.Missing),
		})
	}
	return &body[lettersView]{out}, nil
}

func (s *server) lettersPDF(ctx context.Context, in *lettersAsked) (*file, error) {
	w, list, _, err := s.writeLetters(ctx, in)
	if err != nil {
		return nil, err
	}
	if len(list) == 0 {
		return nil, huma.Error422UnprocessableEntity("There are no letters: every recipient is reached by another channel.")
	}
	fonts, err := s.fonts()
	if errors.Is(err, typeset.ErrNoFonts) {
		return nil, huma.Error503ServiceUnavailable(
			"The fonts of the interface are not here, so no letters can be written. Print them from the page instead.",
		)
	}
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	batch := letters.Batch{
		Organisation: w.Organisation.Name, Language: w.Organisation.Language, Date: s.letterDate(w),
		Picture: func(hash string) []byte {
			content, _ := os.ReadFile(s.Store.FilePath(hash)) // a picture that is gone is left out
			return content
		},
	}
	for _, l := range list {
		batch.Letters = append(batch.Letters, letters.Letter{
			Names: namesOf(w, l), Address: l.Address, Subject: l.Subject, Body: l.Body,
		})
	}
	content, err := letters.Write(fonts, batch)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &file{"application/pdf", `attachment; filename="letters.pdf"`, "no-store", content}, nil
}
