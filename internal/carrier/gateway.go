package carrier

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"upperlantern/internal/core/carrying"
)

// Gateway hands texts or calls to an HTTP gateway.
type Gateway struct {
	what   string // names it in errors
	client *http.Client
	make   func(Item) (carrying.Request, error)
	read   func(content []byte) GatewayAnswer
}

// GatewayRequest is what is posted for one text or call.
type GatewayRequest struct {
	To       string `json:"to"`
	From     string `json:"from"`
	Text     string `json:"text,omitempty"`     // what to show, or to read aloud
	Language string `json:"language,omitempty"` // of the text, BCP 47
	Reports  string `json:"reports"`            // where to report to
	// Of calls: the URL of a recording to play instead of reading, and the keys
	// that repeat it and say that it was understood.
	Recording  string `json:"recording,omitempty"`
	RepeatKey  string `json:"repeat_key,omitempty"`
	ConfirmKey string `json:"confirm_key,omitempty"`
	// AnswerKeys choose an answer of a question; the report says which one was pressed.
	AnswerKeys []string `json:"answer_keys,omitempty"`
}

// GatewayAnswer is the gateway's answer: an identifier when it took the
// request, a reason when it did not.
type GatewayAnswer struct {
	ID     string `json:"id,omitempty"`
	Reason string `json:"reason,omitempty"`
	Gone   bool   `json:"gone,omitempty"` // there is no such number
}

const (
	gatewayTimeout     = 20 * time.Second
	gatewayConnections = 40 // as many as there are hands
)

// NewGateway makes a carrier that posts to an endpoint, with a bearer token.
// What names it in errors, such as “text gateway”.
func NewGateway(what, endpoint, token, reports string) *Gateway {
	return newGateway(what, func(item Item) (carrying.Request, error) {
		body, err := json.Marshal(GatewayRequest{
			To: item.To, From: item.From, Text: item.Body, Language: item.Language, Reports: reports,
			Recording: item.Call.Recording, RepeatKey: item.Call.RepeatKey, ConfirmKey: item.Call.ConfirmKey,
			AnswerKeys: item.Call.AnswerKeys,
		})
		return carrying.Request{Method: http.MethodPost, URL: endpoint, Body: body, Headers: map[string]string{
			"Content-Type": "application/json", "Authorization": "Bearer " + token, "Idempotency-Key": item.Key,
		}}, err
	}, func(content []byte) (a GatewayAnswer) {
		if json.Unmarshal(content, &a) != nil {
			return GatewayAnswer{} // an answer without a reason has its status
		}
		return a
	})
}

// NewTemplated makes a carrier for a gateway that a template describes.
func NewTemplated(what string, t carrying.Template, token, reports string) *Gateway {
	return newGateway(what, func(item Item) (carrying.Request, error) {
		return t.Request(carrying.Values{
			To: item.To, From: item.From, Text: item.Body, Language: item.Language, Key: item.Key, Token: token,
			Reports: reports, Recording: item.Call.Recording,
		})
	}, func(content []byte) GatewayAnswer {
		id, reason := t.Answer.Read(content)
		return GatewayAnswer{ID: id, Reason: reason}
	})
}

func newGateway(
	what string, request func(Item) (carrying.Request, error), read func([]byte) GatewayAnswer,
) *Gateway {
	transport := http.DefaultTransport.(*http.Transport).Clone()
	transport.MaxIdleConnsPerHost = gatewayConnections
	return &Gateway{
		what: what, make: request, read: read,
		client: &http.Client{Timeout: gatewayTimeout, Transport: transport, CheckRedirect: answerHere},
	}
}

// Hand hands over one text or call.
func (g *Gateway) Hand(ctx context.Context, item Item) error {
	made, err := g.make(item)
	if err != nil {
		return err
	}
	req, err := http.NewRequestWithContext(ctx, made.Method, made.URL, bytes.NewReader(made.Body))
	if err != nil {
		return err
	}
	for name, value := range made.Headers {
		req.Header.Set(name, value)
	}
	resp, err := g.client.Do(req)
	if err != nil {
		return unreachable(g.what, withoutAddress(err))
	}
	defer resp.Body.Close() //nolint:errcheck // nothing is left to read
	content, err := io.ReadAll(io.LimitReader(resp.Body, 1<<16))
	if err != nil {
		return unreachable(g.what, err)
	}
	return gatewayAnswer(g.what, resp, g.read(content))
}

// withoutAddress leaves out of an error what was asked for: it may hold the token and
// the words that were sent.
func withoutAddress(err error) error {
	var asked *url.Error
	if errors.As(err, &asked) {
		return asked.Err
	}
	return err
}

func gatewayAnswer(what string, resp *http.Response, answer GatewayAnswer) error {
	detail := strings.TrimSpace(answer.Reason)
	if detail == "" {
		detail = fmt.Sprintf("the %s answered %s", what, resp.Status)
	}
	after := retryAfter(resp.Header, time.Now())
	switch status := resp.StatusCode; {
	case status < 300 && answer.ID != "":
		return nil
	case status < 300 && answer.Reason != "":
		return &Refusal{Detail: detail, RetryAfter: after}
	case status < 300:
		return &Trouble{
			Detail: fmt.Sprintf(
				"the %s answered %s without an id, so that it is not known to have taken anything", what, resp.Status,
			),
			RetryAfter: after,
		}
	case status < 400, ours(status), status == http.StatusTooManyRequests:
		return &Trouble{Detail: detail, RetryAfter: after}
	case status >= 500, status == http.StatusRequestTimeout:
		return &Refusal{Detail: detail, RetryAfter: after}
	}
	about := answer.Gone || resp.StatusCode == http.StatusUnprocessableEntity || resp.StatusCode == http.StatusGone
	return &Refusal{Detail: detail, Permanent: true, Address: about, Gone: answer.Gone}
}

// ours reports whether a status says that our account or our configuration with a
// gateway is wrong: every address would be answered so.
func ours(status int) bool {
	switch status {
	case http.StatusUnauthorized, http.StatusPaymentRequired, http.StatusForbidden,
		http.StatusNotFound, http.StatusMethodNotAllowed:
		return true
	}
	return false
}
