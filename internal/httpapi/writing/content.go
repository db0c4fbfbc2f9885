package writing

import (
	"bytes"
	"context"
	"net/http"
	"os"
	"path/filepath"
	"reflect"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"upperlantern/internal/clipboard"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/readaloud"
	"upperlantern/internal/store"
)

// Document describes rich.Doc, which is a string while it has no formatting.
type Document struct{}

type formatted struct {
	Type    string      `json:"type" enum:"doc"`
	Content []rich.Node `json:"content" maxItems:"5000"`
}

// Schema describes it in the API's description.
func (Document) Schema(r huma.Registry) *huma.Schema {
	lines := &huma.Schema{Type: huma.TypeString, Description: "Lines of text"}
	return &huma.Schema{OneOf: []*huma.Schema{lines, r.Schema(reflect.TypeFor[formatted](), true, "Formatted")}}
}

func (s *Area) contentRoutes(api huma.API) {
	route.Add(
		api,
		route.New(http.MethodPost, "/files", "add-file", "Upload a file for messages", access.Write).Takes(attachment.LargestFile+1),
		s.addFile,
	)
	route.Add(
		api,
		route.New(http.MethodGet, "/files/{hash}", "file", "The content of an uploaded file", access.Write, access.ReadRecords).Gives("application/octet-stream"),
		s.fileContent,
	)
	route.Post(api, "/paste", "paste", "Clean what was pasted", s.cleanPaste, access.Write)
	route.Add(
		api,
		route.New(http.MethodPost, "/listen", "listen", "Hear a text read aloud", access.Write).Gives("audio/wav"),
		s.listen,
	)
}

type uploaded struct {
	attachment.File
	Seconds int `json:"seconds" doc:"Of a recording (WAV)"`
}

func (s *Area) addFile(ctx context.Context, in *struct {
	Name    string `query:"name" required:"true" minLength:"1" maxLength:"1000"`
	RawBody []byte `contentType:"application/octet-stream"`
}) (*route.Body[uploaded], error) {
	name := attachment.Name(filepath.Base(in.Name))
	mediaType, err := attachment.Check(name, in.RawBody)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The file was not added: " + err.Error() + ".")
	}
	f, err := s.Store.AddFile(ctx, route.By(ctx).ID, name, mediaType, in.RawBody, s.Now())
	return route.Answer(uploaded{File: f, Seconds: readaloud.Seconds(in.RawBody)}), s.Problem(ctx, err)
}

func (s *Area) fileContent(ctx context.Context, in *struct {
	Hash string `path:"hash" pattern:"^[0-9a-f]{64}$"`
}) (*route.File, error) {
	mediaType, path, err := s.Store.File(ctx, in.Hash)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	content, err := os.ReadFile(path)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	shown := "attachment"
	if attachment.Picture(mediaType) || strings.HasPrefix(mediaType, "audio/") {
		shown = "inline"
	}
	return &route.File{
		ContentType: mediaType, Disposition: shown, Cache: "private, max-age=86400, immutable", Body: content,
	}, nil
}

type pasted struct {
	Content rich.Doc `json:"content"`
	Dropped []string `json:"dropped" doc:"What was not kept, in words"`
}

func (s *Area) cleanPaste(_ context.Context, in *struct {
	Body struct {
		HTML string `json:"html,omitempty" maxLength:"4000000"`
		Text string `json:"text,omitempty" maxLength:"1000000" doc:"When there is no HTML"`
	}
}) (*route.Body[pasted], error) {
	cleaned := clipboard.Text(in.Body.Text)
	if in.Body.HTML != "" {
		var err error
		if cleaned, err = clipboard.HTML(in.Body.HTML); err != nil {
			return nil, huma.Error422UnprocessableEntity(route.Sentence(err))
		}
	}
	return route.Answer(pasted{Content: cleaned.Doc, Dropped: cleaned.Dropped}), nil
}

const longestListened = 5000

func (s *Area) listen(ctx context.Context, in *struct {
	Body struct {
		Text     string `json:"text" minLength:"1" maxLength:"20000"`
		Language string `json:"language,omitempty" maxLength:"40" doc:"BCP 47; absent is the organisation's"`
	}
}) (*route.File, error) {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	tag := in.Body.Language
	if tag == "" {
		tag = o.Language
	}
	text := []rune(in.Body.Text)
	sound, err := readaloud.Say(ctx, string(text[:min(len(text), longestListened)]), tag, plan.WordsPerMinute(tag))
	return &route.File{ContentType: "audio/wav", Disposition: "inline", Cache: "no-store", Body: sound}, s.Problem(ctx, err)
}

// Recording gives a carrier what it is to play. Whoever knows the hash of a
// recording was given it by us.
func (s *Area) Recording(w http.ResponseWriter, r *http.Request) {
	mediaType, path, err := s.Store.File(r.Context(), chi.URLParam(r, "hash"))
	if err != nil || !strings.HasPrefix(mediaType, "audio/") {
		http.Error(w, "there is no such recording", http.StatusNotFound)
		return
	}
	content, err := os.ReadFile(path)
	if err != nil {
		http.Error(w, store.ErrNotFound.Error(), http.StatusNotFound)
		return
	}
	w.Header().Set("Content-Type", mediaType)
	http.ServeContent(w, r, "", s.Now(), bytes.NewReader(content))
}
