package carrying

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Methods of a template (RFC 9110 §9.3).
const (
	get  = "GET"
	post = "POST"
	put  = "PUT"
)

// Template describes a gateway whose requests have another form than ours. In its
// URL, its headers and its body, places such as {to} stand for what is sent.
type Template struct {
	Method  string            `json:"method,omitempty"` // POST unless it is said
	URL     string            `json:"url"`
	Headers map[string]string `json:"headers,omitempty"`
	Basic   *Basic            `json:"basic,omitempty"`
	JSON    json.RawMessage   `json:"json,omitempty"` // the body, or
	Form    map[string]string `json:"form,omitempty"` // the body
	Answer  Answer            `json:"answer"`
}

// Basic is the user and the password of a gateway that asks for them (RFC 7617).
type Basic struct {
	User     string `json:"user"`
	Password string `json:"password"`
}

// Answer says where a gateway's answer in JSON holds what, as JSON Pointers (RFC 6901).
type Answer struct {
	ID    string `json:"id,omitempty"`    // of what it took; without it, its status says whether it did
	Error string `json:"error,omitempty"` // why it did not
}

// Values are what the places of a template stand for.
type Values struct {
	To, From, Text, Language, Key, Token, Reports, Recording string
}

func (v Values) of(place string) string {
	switch place {
	case "to":
		return v.To
	case "to-digits":
		return strings.TrimPrefix(v.To, "+")
	case "from":
		return v.From
	case "text":
		return v.Text
	case "language":
		return v.Language
	case "key":
		return v.Key
	case "token":
		return v.Token
	case "reports":
		return v.Reports
	}
	return v.Recording
}

// Places are those that a template may name: the number with and without its +, the
// number that it is from, the words and their language, the key by which a delivery
// is known if it comes twice, the gateway's token, where it reports, and the address
// of what a call plays.
var Places = []string{"to", "to-digits", "from", "text", "language", "key", "token", "reports", "recording"}

var place = regexp.MustCompile(`\{([a-z-]+)\}`)

// deepest bounds how deep the body of a template is nested.
const deepest = 20

// ParseTemplate reads a template; the error says what is wrong with it.
func ParseTemplate(text string) (Template, error) {
	var t Template
	d := json.NewDecoder(strings.NewReader(text))
	d.DisallowUnknownFields()
	if err := d.Decode(&t); err != nil {
		return t, fmt.Errorf("the template is no JSON that can be read: %w", err)
	}
	if d.More() {
		return t, errors.New("the template has something after its end")
	}
	if t.Method = strings.ToUpper(t.Method); t.Method == "" {
		t.Method = post
	}
	switch {
	case !slices.Contains([]string{post, put, get}, t.Method):
		return t, fmt.Errorf("the template's method is %q; name POST, PUT or GET", t.Method)
	case t.Form != nil && len(t.JSON) > 0:
		return t, errors.New("the template has two bodies: keep json or form")
	case t.Method == get && (t.Form != nil || len(t.JSON) > 0):
		return t, errors.New("a template that gets has no body: put the places into its url")
	}
	if err := t.check(); err != nil {
		return t, err
	}
	return t, nil
}

// check looks at what a template makes of plain values.
func (t Template) check() error {
	for _, text := range t.texts() {
		for _, found := range place.FindAllStringSubmatch(text, -1) {
			if !slices.Contains(Places, found[1]) {
				return fmt.Errorf("the template names {%s}; there are {%s}", found[1], strings.Join(Places, "}, {"))
			}
		}
	}
	if !strings.Contains(strings.Join(t.texts(), " "), "{to") {
		return errors.New("the template does not say where the number stands: {to} or {to-digits}")
	}
	base, _, _ := strings.Cut(t.URL, "{")
	if err := checkURL(base); err != nil {
		return errors.New("the template's url begins with the address of the gateway, such as https://gateway.example.org/")
	}
	for name, value := range t.Headers {
		if !validHeader(name, value) {
			return fmt.Errorf("%q cannot be a header", name)
		}
	}
	for _, pointer := range []string{t.Answer.ID, t.Answer.Error} {
		if pointer != "" && !strings.HasPrefix(pointer, "/") {
			return fmt.Errorf("%q does not say where the answer holds something; begin with a slash, such as /message/id", pointer)
		}
	}
	if len(t.JSON) > 0 {
		if _, err := fill(t.JSON, func(s string) string { return s }); err != nil {
			return err
		}
	}
	return nil
}

var headerName = regexp.MustCompile(`^[A-Za-z0-9-]+$`)

func validHeader(name, value string) bool {
	return headerName.MatchString(name) && !strings.ContainsAny(value, "\r\n\x00")
}

// texts are everything of a template in which places stand.
func (t Template) texts() []string {
	list := []string{t.URL, string(t.JSON)}
	for _, v := range t.Headers {
		list = append(list, v)
	}
	for _, v := range t.Form {
		list = append(list, v)
	}
	if t.Basic != nil {
		list = append(list, t.Basic.User, t.Basic.Password)
	}
	return list
}

// Request is what is sent to a gateway.
type Request struct {
	Method, URL string
	Headers     map[string]string
	Body        []byte // nil for none
}

// Request is the request that a template makes of values.
func (t Template) Request(v Values) (Request, error) {
	plain := func(text string) string {
		return place.ReplaceAllStringFunc(text, func(p string) string { return v.of(p[1 : len(p)-1]) })
	}
	r := Request{Method: t.Method, Headers: map[string]string{}}
	r.URL = place.ReplaceAllStringFunc(t.URL, func(p string) string { return url.QueryEscape(v.of(p[1 : len(p)-1])) })
	switch {
	case len(t.JSON) > 0:
		body, err := fill(t.JSON, plain)
		if err != nil {
			return r, err
		}
		r.Headers["Content-Type"], r.Body = "application/json", body
	case t.Form != nil:
		form := url.Values{}
		for name, text := range t.Form {
			form.Set(name, plain(text))
		}
		r.Headers["Content-Type"], r.Body = "application/x-www-form-urlencoded", []byte(form.Encode())
	}
	if t.Basic != nil {
		typed := plain(t.Basic.User) + ":" + plain(t.Basic.Password)
		r.Headers["Authorization"] = "Basic " + base64.StdEncoding.EncodeToString([]byte(typed))
	}
	for name, text := range t.Headers {
		r.Headers[name] = oneLine(plain(text))
	}
	return r, nil
}

// oneLine keeps what is filled in from making a header of its own.
func oneLine(text string) string { return strings.Join(strings.Fields(text), " ") }

// fill changes every text in a JSON document.
func fill(document []byte, change func(string) string) ([]byte, error) {
	var v any
	d := json.NewDecoder(bytes.NewReader(document))
	d.UseNumber()
	if err := d.Decode(&v); err != nil {
		return nil, fmt.Errorf("the template's json cannot be read: %w", err)
	}
	v, err := filled(v, change, 0)
	if err != nil {
		return nil, err
	}
	return json.Marshal(v)
}

func filled(v any, change func(string) string, depth int) (any, error) {
	if depth > deepest {
		return nil, fmt.Errorf("the template's json is nested more than %d deep", deepest)
	}
	var err error
	switch v := v.(type) {
	case string:
		return change(v), nil
	case []any:
		for i := range v {
			if v[i], err = filled(v[i], change, depth+1); err != nil {
				return nil, err
			}
		}
	case map[string]any:
		for name := range v {
			if v[name], err = filled(v[name], change, depth+1); err != nil {
				return nil, err
			}
		}
	}
	return v, nil
}

// Read finds the id and the error in a gateway's answer. Without a place for the id,
// any answer is one.
func (a Answer) Read(content []byte) (id, problem string) {
	var v any
	d := json.NewDecoder(bytes.NewReader(content))
	d.UseNumber()
	if d.Decode(&v) != nil {
		v = nil
	}
	if a.Error != "" {
		problem = at(v, a.Error)
	}
	if a.ID == "" && problem == "" {
		return "taken", ""
	}
	return at(v, a.ID), problem
}

// at is the text or the number at a JSON Pointer, or "" (RFC 6901).
func at(v any, pointer string) string {
	if pointer == "" {
		return ""
	}
	for token := range strings.SplitSeq(pointer[1:], "/") {
		token = strings.ReplaceAll(strings.ReplaceAll(token, "~1", "/"), "~0", "~")
		switch in := v.(type) {
		case map[string]any:
			v = in[token]
		case []any:
			n, err := strconv.Atoi(token)
			if err != nil || n < 0 || n >= len(in) {
				return ""
			}
			v = in[n]
		default:
			return ""
		}
	}
	switch v := v.(type) {
	case string:
		return strings.TrimSpace(v)
	case json.Number:
		return v.String()
	}
	return ""
}
