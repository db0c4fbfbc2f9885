package writing

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/exchange"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/store"
	"upperlantern/internal/translation"
)

func (s *Area) memoryRoutes(api huma.API) {
	route.Get(api, "/memory", "memory", "Lines that were checked before", s.memory, access.Write)
	route.Post(api, "/memory", "remember", "Add a line to the memory, as checked", s.remember, access.Write)
	route.Put(api, "/memory/{id}/{language}", "correct-memory", "Change what a line of the memory says", s.correct, access.Write)
	route.Del(api, "/memory/{id}/{language}", "forget", "Drop a line of the memory in one language", s.forget, access.Write)
	route.Add(
		api, route.New(http.MethodGet, "/memory.tmx", "memory-file", "The memory as TMX 1.4b", access.Write).Gives("application/x-tmx+xml"),
		s.memoryFile,
	)
	route.Add(
		api, route.New(http.MethodPost, "/memory/file", "load-memory", "Add the lines of a TMX file to the memory", access.Write).
			Takes(exchange.LargestTranslations+1), s.loadMemory,
	)
	route.Get(api, "/terms", "terms", "The glossary", s.terms, access.Write)
	route.Put(api, "/terms", "put-term", "Keep how a term is said in a language", s.putTerm, access.Write)
	route.Del(api, "/terms/{id}", "drop-term", "Drop a term of the glossary in one language", s.dropTerm, access.Write)
	route.Add(
		api, route.New(http.MethodGet, "/terms.csv", "terms-csv", "The glossary as CSV", access.Write).Gives("text/csv"), s.termsCSV,
	)
	route.Add(
		api, route.New(http.MethodGet, "/terms.tbx", "terms-tbx", "The glossary as TBX-Basic", access.Write).Gives("application/x-tbx+xml"),
		s.termsTBX,
	)
	route.Add(
		api, route.New(http.MethodPost, "/terms/file", "load-terms", "Add the terms of a CSV or TBX file", access.Write).
			Takes(exchange.LargestTranslations+1), s.loadTerms,
	)
	route.Add(
		api, route.New(http.MethodGet, "/messages/{id}/copies/{language}/xliff", "copy-file", "A copy as XLIFF 2.1", access.Write).
			Gives("application/xliff+xml"), s.copyFile,
	)
	route.Add(
		api, route.New(
			http.MethodPost, "/messages/{id}/copies/{language}/xliff", "take-copy-file", "Take the lines of an XLIFF file that came back",
			access.Write,
		).Takes(exchange.LargestTranslations+1), s.takeCopyFile,
	)
	route.Add(
		api, route.New(http.MethodGet, "/messages/{id}/xliff", "copy-files", "Copies as XLIFF 2.1, zipped", access.Write).
			Gives("application/zip"), s.copyFiles,
	)
	route.Add(
		api, route.New(
			http.MethodPost, "/messages/{id}/xliff", "take-copy-files", "Take the lines of XLIFF files that came back, one or zipped",
			access.Write,
		).Takes(exchange.LargestTranslations+1), s.takeCopyFiles,
	)
}

type memoryLineView struct {
	ID        int64               `json:"id" doc:"Of the original"`
	Original  string              `json:"original"`
	Places    []lines.Placeholder `json:"places"`
	Language  string              `json:"language"`
	Name      string              `json:"name" doc:"Of the language"`
	Target    string              `json:"target"`
	Unit      string              `json:"unit" doc:"Of whoever checked it; empty for the whole organisation"`
	CheckedBy string              `json:"checkedBy"`
	CheckedAt time.Time           `json:"checkedAt"`
}

type memoryView struct {
	Lines     []memoryLineView `json:"lines" doc:"The newest first"`
	All       int              `json:"all"`
	Languages []languageName   `json:"languages" doc:"That it has"`
	Checkers  []string         `json:"checkers"`
}

type languageName struct {
	Tag  string `json:"tag"`
	Name string `json:"name"`
}

func (s *Area) memory(ctx context.Context, in *struct {
	route.Page
	Search   string        `query:"search" maxLength:"200"`
	Language string        `query:"language" maxLength:"40"`
	Unit     roster.UnitID `query:"unit" minimum:"0"`
	By       string        `query:"by" maxLength:"200"`
	Older    int           `query:"older" minimum:"0" maximum:"10000" doc:"Checked longer ago than so many days"`
}) (*route.Body[memoryView], error) {
	asked := store.MemoryAsked{Search: in.Search, Language: in.Language, Unit: in.Unit, By: in.By}
	if in.Older > 0 {
		asked.Before = s.Now().AddDate(0, 0, -in.Older)
	}
	list, all, err := s.Store.Memory(ctx, asked, in.First, in.Count)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	languages, checkers, err := s.Store.MemoryFacets(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	r, err := s.Store.Roster(ctx)
	out := memoryView{
		All: all, Lines: []memoryLineView{}, Languages: []languageName{}, Checkers: append([]string{}, checkers...),
	}
	for _, tag := range languages {
		out.Languages = append(out.Languages, languageName{tag, roster.LanguageName(tag)})
	}
	for _, l := range list {
		out.Lines = append(out.Lines, memoryLineView{
			ID: l.ID, Original: l.Original.Text, Places: append([]lines.Placeholder{}, l.Original.Places...),
			Language: l.Language,
			Name:     roster.LanguageName(l.Language), Target: l.Text, Unit: r.UnitPath(l.Unit), CheckedBy: l.CheckedBy,
			CheckedAt: l.CheckedAt,
		})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) remember(ctx context.Context, in *struct {
	Body struct {
		Original string              `json:"original" maxLength:"8000"`
		Places   []lines.Placeholder `json:"places" maxItems:"200"`
		Language string              `json:"language" maxLength:"40"`
		Target   string              `json:"target" maxLength:"8000"`
	}
}) (*struct{}, error) {
	original := lines.Line{Text: in.Body.Original, Places: in.Body.Places}
	return nil, s.Problem(ctx, s.Translation.Add(ctx, route.By(ctx), original, in.Body.Language, in.Body.Target))
}

type memoryPath struct {
	ID       int64  `path:"id"`
	Language string `path:"language" maxLength:"40"`
}

type saying struct {
	Message int64  `json:"message"`
	Title   string `json:"title"`
}

type rememberedView struct {
	SaySo []saying `json:"saySo" doc:"Drafts and scheduled messages that say it as it was: they keep what they say"`
}

func (s *Area) correct(ctx context.Context, in *struct {
	ID       int64  `path:"id"`
	Language string `path:"language" maxLength:"40"`
	Body     struct {
		Was  string `json:"was" maxLength:"4000"`
		Text string `json:"text" maxLength:"8000"`
	}
}) (*route.Body[rememberedView], error) {
	list, err := s.Translation.Correct(ctx, route.By(ctx), in.ID, in.Language, in.Body.Was, in.Body.Text)
	out := rememberedView{SaySo: []saying{}}
	for _, m := range list {
		out.SaySo = append(out.SaySo, saying{m.ID, m.Title})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) forget(ctx context.Context, in *memoryPath) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Store.Forget(ctx, in.ID, in.Language))
}

func (s *Area) memoryFile(ctx context.Context, _ *struct{}) (*route.File, error) {
	content, err := s.Translation.TMX(ctx)
	return attachmentOf("application/x-tmx+xml", "memory.tmx", content), s.Problem(ctx, err)
}

func attachmentOf(mediaType, name string, content []byte) *route.File {
	return &route.File{
		ContentType: mediaType, Disposition: `attachment; filename="` + name + `"`, Cache: "no-store", Body: content,
	}
}

type linesLoadedView struct {
	Added   int      `json:"added"`
	Skipped int      `json:"skipped"`
	Why     []string `json:"why" doc:"Of some that were skipped"`
}

func viewLoaded(l translation.Loaded) linesLoadedView {
	return linesLoadedView{Added: l.Added, Skipped: l.Skipped, Why: append([]string{}, l.Why...)}
}

type rawFile struct {
	RawBody []byte `contentType:"application/octet-stream"`
}

func (s *Area) loadMemory(ctx context.Context, in *rawFile) (*route.Body[linesLoadedView], error) {
	loaded, err := s.Translation.LoadTMX(ctx, route.By(ctx), in.RawBody)
	return route.Answer(viewLoaded(loaded)), s.Problem(ctx, err)
}

type keptTermView struct {
	ID       int64  `json:"id"`
	Term     string `json:"term"`
	Language string `json:"language"`
	Name     string `json:"name" doc:"Of the language"`
	Says     string `json:"says" doc:"The term itself when it stays as it is"`
	Note     string `json:"note"`
}

type glossaryView struct {
	Terms []keptTermView `json:"terms"`
}

func (s *Area) terms(ctx context.Context, _ *struct{}) (*route.Body[glossaryView], error) {
	list, err := s.Store.Terms(ctx)
	out := glossaryView{Terms: []keptTermView{}}
	for _, t := range list {
		out.Terms = append(out.Terms, keptTermView{
			ID: t.ID, Term: t.Term.Term, Language: t.Language, Name: roster.LanguageName(t.Language), Says: t.Says, Note: t.Note,
		})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) putTerm(ctx context.Context, in *struct {
	Body struct {
		Term     string `json:"term" maxLength:"400"`
		Language string `json:"language" maxLength:"40"`
		Says     string `json:"says" maxLength:"400"`
		Note     string `json:"note,omitempty" maxLength:"400"`
	}
}) (*route.Body[glossaryView], error) {
	b := in.Body
	err := s.Translation.SetTerm(ctx, copies.Term{Term: b.Term, Language: b.Language, Says: b.Says, Note: b.Note})
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.terms(ctx, nil)
}

func (s *Area) dropTerm(ctx context.Context, in *struct {
	ID int64 `path:"id"`
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Store.DropTerm(ctx, in.ID))
}

func (s *Area) termsCSV(ctx context.Context, _ *struct{}) (*route.File, error) {
	terms, _, err := s.Translation.Glossary(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	content, err := exchange.WriteGlossary(terms)
	return attachmentOf("text/csv; charset=utf-8", "glossary.csv", content), s.Problem(ctx, err)
}

func (s *Area) termsTBX(ctx context.Context, _ *struct{}) (*route.File, error) {
	terms, from, err := s.Translation.Glossary(ctx)
	return attachmentOf("application/x-tbx+xml", "glossary.tbx", exchange.WriteTBX(terms, from)), s.Problem(ctx, err)
}

func (s *Area) loadTerms(ctx context.Context, in *rawFile) (*route.Body[linesLoadedView], error) {
	loaded, err := s.Translation.LoadGlossary(ctx, in.RawBody)
	return route.Answer(viewLoaded(loaded)), s.Problem(ctx, err)
}

func (s *Area) copyFile(ctx context.Context, in *CopyPath) (*route.File, error) {
	content, err := s.Translation.XLIFF(ctx, route.By(ctx), in.ID, in.Language)
	return attachmentOf("application/xliff+xml", "copy."+in.Language+".xlf", content), s.Problem(ctx, err)
}

func (s *Area) copyFiles(ctx context.Context, in *struct {
	ID        int64    `path:"id"`
	Languages []string `query:"languages,explode" maxItems:"50" doc:"BCP 47"`
}) (*route.File, error) {
	content, err := s.Translation.XLIFFs(ctx, route.By(ctx), in.ID, in.Languages)
	return attachmentOf("application/zip", "copies.zip", content), s.Problem(ctx, err)
}

type takenInView struct {
	Language string `json:"language"`
	Name     string `json:"name"`
	TakenView
}

func (s *Area) takeCopyFiles(ctx context.Context, in *struct {
	ID      int64  `path:"id"`
	Checked bool   `query:"checked" doc:"Lines that the files call reviewed or final count as checked"`
	RawBody []byte `contentType:"application/octet-stream"`
}) (*route.Body[[]takenInView], error) {
	list, err := s.Translation.TakeXLIFFs(ctx, route.By(ctx), in.ID, in.RawBody, in.Checked)
	out := make([]takenInView, len(list))
	for i, t := range list {
		out[i] = takenInView{t.Language, roster.LanguageName(t.Language), viewTaken(t.Taken)}
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func viewTaken(t translation.Taken) TakenView {
	return TakenView{
		Lines: t.Lines, Same: t.Same, Gone: append([]string{}, t.Gone...), Changed: append([]string{}, t.Changed...),
	}
}

type TakenView struct {
	Lines   int      `json:"lines" doc:"Taken into the copy"`
	Same    int      `json:"same" doc:"As they were"`
	Gone    []string `json:"gone" doc:"Lines that are no longer in the message"`
	Changed []string `json:"changed" doc:"Lines whose original in the file is not the present one"`
}

func (s *Area) takeCopyFile(ctx context.Context, in *struct {
	CopyPath
	Checked bool   `query:"checked" doc:"Lines that the file calls reviewed or final count as checked"`
	RawBody []byte `contentType:"application/octet-stream"`
}) (*route.Body[TakenView], error) {
	t, err := s.Translation.TakeXLIFF(ctx, route.By(ctx), in.ID, in.Language, in.RawBody, in.Checked)
	return route.Answer(viewTaken(t)), s.Problem(ctx, err)
}
