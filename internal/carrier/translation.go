package carrier

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"time"
)

// Translation asks a translation service, which takes lines by HTTP.
type Translation struct {
	endpoint string // such as http://127.0.0.1:2580/translations
	token    string
	client   *http.Client
}

// TranslationRequest is what is posted: lines of one language to be said in another.
// Places such as {1} and {2}…{/2} stand in them and come back whole.
type TranslationRequest struct {
	From  string            `json:"from"` // BCP 47
	To    string            `json:"to"`
	Lines []string          `json:"lines"`
	Terms []TranslationTerm `json:"terms,omitempty"` // how terms in the lines are said
}

// TranslationTerm is how a term is said.
type TranslationTerm struct {
	Term string `json:"term"`
	Says string `json:"says"`
}

// TranslationAnswer has as many lines as were asked for, in their order; null is one
// that the service cannot say. Note is for whoever asked, such as what is missing.
type TranslationAnswer struct {
	Lines []*string `json:"lines"`
	Note  string    `json:"note,omitempty"`
}

// ErrTranslation is a service that cannot be asked, or whose answer is of no use.
var ErrTranslation = errors.New("the translation service did not help")

const (
	translationTimeout = 30 * time.Second
	longestTranslation = 1 << 20 // bytes of an answer
	translationTries   = 2
	translationWait    = time.Second
)

// NewTranslation makes a client of a service, with a bearer token.
func NewTranslation(endpoint, token string) *Translation {
	return &Translation{
		endpoint: endpoint, token: token,
		client: &http.Client{Timeout: translationTimeout, CheckRedirect: answerHere},
	}
}

// Translate says lines in another language; "" is one that the service cannot say.
func (t *Translation) Translate(ctx context.Context, r TranslationRequest) (TranslationAnswer, error) {
	var answer TranslationAnswer
	var again bool
	var err error
	for try := range translationTries {
		if try > 0 {
			select {
			case <-ctx.Done():
				return answer, ctx.Err()
			case <-time.After(translationWait):
			}
		}
		if answer, again, err = t.ask(ctx, r); err == nil || !again {
			break
		}
	}
	return answer, err
}

// ask asks once; again says that it may help to ask once more.
func (t *Translation) ask(ctx context.Context, r TranslationRequest) (answer TranslationAnswer, again bool, err error) {
	body, err := json.Marshal(r)
	if err != nil {
		return answer, false, err
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, t.endpoint, bytes.NewReader(body))
	if err != nil {
		return answer, false, fmt.Errorf("%w: %w", ErrTranslation, err)
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Authorization", "Bearer "+t.token)
	resp, err := t.client.Do(req)
	if err != nil {
		return answer, true, fmt.Errorf("%w: it cannot be reached", ErrTranslation)
	}
	defer resp.Body.Close() //nolint:errcheck // nothing is left to read
	content, err := io.ReadAll(io.LimitReader(resp.Body, longestTranslation+1))
	if err != nil {
		return answer, true, fmt.Errorf("%w: it broke off", ErrTranslation)
	}
	kind, _, _ := mime.ParseMediaType(resp.Header.Get("Content-Type"))
	switch {
	case resp.StatusCode >= 500 || resp.StatusCode == http.StatusTooManyRequests:
		return answer, true, fmt.Errorf("%w: it answered %s", ErrTranslation, resp.Status)
	case resp.StatusCode != http.StatusOK:
		return answer, false, fmt.Errorf("%w: it answered %s", ErrTranslation, resp.Status)
	case len(content) > longestTranslation:
		return answer, false, fmt.Errorf("%w: its answer is longer than a megabyte", ErrTranslation)
	case kind != "application/json":
		return answer, false, fmt.Errorf("%w: its answer is %q, not JSON", ErrTranslation, kind)
	}
	if err := json.Unmarshal(content, &answer); err != nil {
		return answer, false, fmt.Errorf("%w: its answer cannot be read", ErrTranslation)
	}
	if len(answer.Lines) != len(r.Lines) {
		return answer, false, fmt.Errorf(
			"%w: it was asked for %d lines and answered %d", ErrTranslation, len(r.Lines), len(answer.Lines),
		)
	}
	return answer, false, nil
}
