package standin

import (
	"bytes"
	"context"
	"embed"
	"encoding/json"
	"net/http"
	"os/exec"
	"regexp"
	"strings"
	"time"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/copies"
)

// phrases are lines of the demo's world in its languages, by their English words.
//
//go:embed phrases.json
var phraseFile embed.FS

type phrases []map[string]string // by language

func readPhrases() phrases {
	content, err := phraseFile.ReadFile("phrases.json")
	if err != nil {
		panic(err)
	}
	var list phrases
	if err := json.Unmarshal(content, &list); err != nil {
		panic(err)
	}
	return list
}

var collection = readPhrases()

// Phrases are the lines that the stand-in knows, each by language.
func Phrases() []map[string]string { return collection }

const (
	mostTranslated  = 2000 // lines of a request
	translationTime = 20 * time.Second
)

// translate is the stand-in of a translation service (POST /translations): Apertium
// where it is installed and knows the pair, otherwise the phrase collection, which
// comes first since people wrote it.
func (b *Box) translate(w http.ResponseWriter, r *http.Request) {
	if r.Header.Get("Authorization") != "Bearer "+b.Token {
		http.Error(w, "wrong token", http.StatusUnauthorized)
		return
	}
	var req carrier.TranslationRequest
	err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 1<<20)).Decode(&req)
	if err != nil || len(req.Lines) > mostTranslated {
		http.Error(w, "the request cannot be read", http.StatusBadRequest)
		return
	}
	answer := carrier.TranslationAnswer{Lines: make([]*string, len(req.Lines))}
	var left []int
	for i, line := range req.Lines {
		if said, ok := collection.say(line, req.From, req.To); ok {
			answer.Lines[i] = &said
		} else {
			left = append(left, i)
		}
	}
	answer.Note = machine(r.Context(), req, left, answer.Lines)
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(answer) // the caller is gone if this fails
}

// say finds a line in the collection, whatever its places are numbered.
func (p phrases) say(line, from, to string) (string, bool) {
	source, known := base(from), normal(line)
	for _, phrase := range p {
		for tag, text := range phrase {
			if base(tag) != source || normal(text) != known {
				continue
			}
			said, there := copies.Lookup(to, func(tag string) bool { return phrase[tag] != "" })
			if !there {
				return "", false
			}
			return phrase[said], true
		}
	}
	return "", false
}

func base(tag string) string {
	found, _, _ := strings.Cut(tag, "-")
	return strings.ToLower(found)
}

var spaces = regexp.MustCompile(`\s+`)

// normal is a line without differences that mean nothing.
func normal(text string) string {
	text = strings.NewReplacer("’", "'", "“", `"`, "”", `"`, "…", "...", "–", "-").Replace(text)
	return strings.ToLower(strings.TrimSpace(spaces.ReplaceAllString(text, " ")))
}

// pairs are the ways through Apertium's languages, by “from to”.
var pairs = map[string][]string{
	"en es": {"eng-spa"}, "es en": {"spa-eng"}, "en pt": {"eng-spa", "es-pt"}, "pt en": {"pt-es", "spa-eng"},
	"en pt-BR": {"eng-spa", "es-pt_BR"}, "es pt": {"es-pt"}, "pt es": {"pt-es"}, "es pt-BR": {"es-pt_BR"},
}

// machine translates the lines that are left; the note says why it could not.
func machine(ctx context.Context, req carrier.TranslationRequest, left []int, said []*string) string {
	way := pairs[base(req.From)+" "+req.To]
	if way == nil {
		way = pairs[base(req.From)+" "+base(req.To)]
	}
	if len(left) == 0 || way == nil {
		return ""
	}
	if _, err := exec.LookPath("apertium"); err != nil {
		return "Apertium is not installed, so only the phrase collection was asked."
	}
	asked := make([]string, len(left))
	for i, n := range left {
		asked[i] = strings.Join(strings.Fields(req.Lines[n]), " ")
	}
	ctx, stop := context.WithTimeout(ctx, translationTime)
	defer stop()
	for _, pair := range way {
		var ok bool
		if asked, ok = apertium(ctx, pair, asked); !ok {
			return "Apertium could not say these lines."
		}
	}
	for i, n := range left {
		if asked[i] != "" {
			said[n] = &asked[i]
		}
	}
	return ""
}

// apertium runs lines through one pair; an empty line keeps them apart.
func apertium(ctx context.Context, pair string, list []string) ([]string, bool) {
	c := exec.CommandContext(ctx, "apertium", "-u", pair)
	c.Stdin = strings.NewReader(strings.Join(list, "\n\n") + "\n")
	var out bytes.Buffer
	c.Stdout = &out
	if err := c.Run(); err != nil {
		return nil, false
	}
	said := strings.Split(strings.TrimRight(out.String(), "\n"), "\n\n")
	return said, len(said) == len(list)
}
