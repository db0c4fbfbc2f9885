package writing

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
)

type letterView struct {
	Names   []string `json:"names"`
	Address string   `json:"address" doc:"Postal, in lines; empty when none is kept"`
	Subject string   `json:"subject"`
	HTML    string   `json:"html" doc:"Only what the editor can write, escaped"`
	Date    string   `json:"date" doc:"In words of the first language"`
	Missing string   `json:"missing" doc:"A field that nothing fills"`
	// Languages stand beneath one another.
	Languages []string `json:"languages" doc:"Of the words, BCP 47"`
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
		Draft   message.Draft     `json:"draft"`
		Message int64             `json:"message,omitempty" doc:"Whose copies in other languages are used"`
		People  []roster.PersonID `json:"people,omitempty" maxItems:"200000" doc:"Instead of those whom no channel reaches"`
	}
}

func (s *Area) letterRoutes(api huma.API) {
	route.Post(
		api, "/plan/letters", "letters", "The message on paper, for those whom no channel reaches",
		s.letters, access.Write,
	)
	route.Add(
		api,
		route.New(http.MethodPost, "/plan/letters.pdf", "letters-pdf", "The same as a file to print", access.Write).Gives("application/pdf"),
		s.lettersPDF,
	)
}

func (s *Area) letters(ctx context.Context, in *lettersAsked) (*route.Body[lettersView], error) {
	written, err := s.Letters.Write(ctx, in.Body.Message, in.Body.Draft, in.Body.People, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := lettersView{
		Organisation: written.Organisation, Language: written.Language, Date: written.Date, Letters: []letterView{},
		All: written.All,
	}
	for i, l := range written.Letters {
		out.Letters = append(out.Letters, letterView{
			Names: l.Names, Address: l.Address, Subject: l.Subject, HTML: l.Body.HTML(fileSource),
			Missing: string(written.Missing[i]), Languages: l.Languages, Date: l.Date,
		})
	}
	return route.Answer(out), nil
}

func (s *Area) lettersPDF(ctx context.Context, in *lettersAsked) (*route.File, error) {
	content, err := s.Letters.PDF(ctx, in.Body.Message, in.Body.Draft, in.Body.People, route.By(ctx))
	return &route.File{
		ContentType: "application/pdf", Disposition: `attachment; filename="letters.pdf"`, Cache: "no-store", Body: content,
	}, s.Problem(ctx, err)
}
