package plan

import (
	"cmp"
	"fmt"
	"html"
	"slices"

	"upperlantern/internal/core/field"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/push"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

// renderer fills what a message says, for whoever it goes to. The plan and the
// preview, trials, formatted emails and letters all go through it.
type renderer struct {
	written   message.Content // with the fields in its links marked
	urgency   roster.Urgency
	language  string // of the words, BCP 47
	voice     voice  // that reads it aloud
	mark      string // before what is an exercise or a trial
	signature roster.Signature
	untitled  string // the title of a push that has none

	beneath  *renderer        // stands beneath, in another language; nil for nothing
	channels []roster.Channel // in which it does

	subject, email, text, spoken   field.Template
	pushTitle, pushBody, pushOpens field.Template
}

// value is what fills a field for whoever is written to in a language, or "".
type value = func(f field.Field, tag string) string

// renderer is that of the plan's message as it is written in a language.
func (p *Plan) renderer(w lines.Written, tag string) renderer {
	r := renderer{
		written: w.Content, urgency: p.Draft.Urgency, language: tag, voice: voiceOf(tag), mark: p.mark(tag),
		signature: w.Signature, untitled: p.Settings.termed(p.Settings.Organisation, tag),
	}
	r.written.Email = w.Email.MapLinks(field.InLink)
	r.written.Push.Link = field.InLink(w.Push.Link)
	title, body := r.written.PushContent()
	if title != "" && !r.written.Push.Own {
		title = prefixed(r.signature, title)
	}
	r.subject, r.email = field.Parse(prefixed(r.signature, r.written.Subject)), field.Parse(r.signed())
	r.text = field.Parse(r.listed(r.written.TextBody(), "question reply"))
	r.spoken = field.Parse(r.pressed(r.written.VoiceBody()))
	r.pushTitle, r.pushBody = field.Parse(cmp.Or(title, r.untitled)), field.Parse(body)
	r.pushOpens = field.Parse(r.written.Push.Link)
	return r
}

// signed is the plain email with the unit's footer under it.
func (r *renderer) signed() string {
	return signed(r.signature, r.listed(r.written.Email.Plain(), "question mail"))
}

func (r *renderer) marked(text string) string {
	if text == "" {
		return ""
	}
	return r.mark + text
}

// unknown lists the fields written that are not known, each once.
func (r *renderer) unknown(known func(field.Name) bool) []string {
	var names []string
	for _, t := range []field.Template{r.subject, r.email, r.text, r.spoken, r.pushTitle, r.pushBody, r.pushOpens} {
		for _, name := range t.Unknown(known) {
			if !slices.Contains(names, name) {
				names = append(names, name)
			}
		}
	}
	return names
}

// content is what one channel says to a recipient.
type content struct {
	filled              bool
	subject, body, link string
	bytes               int // of a push
	reading             int // by index into Plan.readings
}

// under lets another language stand beneath in some channels. A call cannot say both.
func (r *renderer) under(beneath *renderer, channels []roster.Channel) {
	if len(channels) > 0 {
		r.beneath, r.channels = beneath, channels
	}
}

// below is what stands beneath in a channel, or nil.
func (r *renderer) below(c roster.Channel) *renderer {
	if r.beneath == nil || c == roster.Voice || !slices.Contains(r.channels, c) {
		return nil
	}
	return r.beneath
}

// in is a value in the language of the words.
func (r *renderer) in(v value) func(field.Field) string {
	return func(f field.Field) string { return v(f, r.language) }
}

// apart stands between two languages.
const apart = "\n\n* * *\n\n"

// fill is what one channel says, with what stands beneath it. Missing names a field that nothing fills. A call
// that reads the text aloud says what the text does, which may be filled already.
func (r *renderer) fill(c roster.Channel, text *content, v value) (out content, missing field.Name) {
	if c == roster.Push {
		return r.fillPush(v)
	}
	out, missing = r.own(c, text, r.in(v))
	if below := r.below(c); below != nil && missing == "" {
		var second content
		second, missing = below.own(c, &content{}, below.in(v))
		out.body += apart + second.body
	}
	return out, missing
}

// own is what one channel says in the language itself.
func (r *renderer) own(
	c roster.Channel, text *content, v func(field.Field) string,
) (out content, missing field.Name) {
	switch c {
	case roster.Email:
		if out.subject, missing = r.subject.Fill(v); missing == "" {
			out.body, missing = r.email.Fill(v)
		}
	case roster.Text:
		out.body, missing = r.text.Fill(v)
	case roster.Voice:
		switch voice := r.written.Voice; {
		case voice.Recording != nil:
		case text.filled && !voice.Own && r.below(roster.Text) == nil && !r.written.Question.Asks():
			return *text, ""
		default:
			out.body, missing = r.spoken.Fill(v)
		}
	}
	out.subject, out.body = r.marked(out.subject), r.marked(out.body)
	return out, missing
}

// fillPush is what a device shows, with a mark in its title. A body that follows the
// text is shortened to what a push takes; words written for it are left alone.
func (r *renderer) fillPush(values value) (out content, missing field.Name) {
	v := r.in(values)
	if out.subject, missing = r.pushTitle.Fill(v); missing != "" {
		return content{}, missing
	}
	if out.body, missing = r.pushBody.Fill(v); missing != "" {
		return content{}, missing
	}
	if below := r.below(roster.Push); below != nil {
		second, empty := below.pushBody.Fill(below.in(values))
		if empty != "" {
			return content{}, empty
		}
		out.body += apart + second
	}
	out.link, missing = r.pushOpens.Fill(v)
	out.subject = r.marked(out.subject)
	payload := push.Payload{
		Title: out.subject, Body: out.body, Link: out.link, Badge: r.written.Push.Badge,
		Quiet: r.written.Push.Quiet(r.urgency), Language: r.language, Choices: r.choices(),
	}
	if !r.written.Push.Own {
		payload = payload.Fit()
	}
	out.body, out.bytes = payload.Body, payload.Size()
	return out, missing
}

// html is the formatted email, or "" when it has no formatting and one language. Each
// of two languages stands in a block of its own. Src gives the source of a picture by
// the hash of its file.
func (r *renderer) html(v value, src func(hash string) string) string {
	below := r.below(roster.Email)
	switch {
	case below != nil:
		return r.block(v, src) + "<hr style=\"margin:20px 0\">\n" + below.block(v, src)
	case !r.written.Email.Formatted() && !r.written.Question.Asks():
		return ""
	}
	return r.ownHTML(v, src)
}

// block is the formatted email in an element that says its language and direction.
func (r *renderer) block(v value, src func(hash string) string) string {
	return fmt.Sprintf("<div lang=\"%s\" dir=\"%s\">\n%s</div>\n", html.EscapeString(r.language), direction(r.language), r.ownHTML(v, src))
}

func (r *renderer) ownHTML(v value, src func(hash string) string) string {
	written := r.written.Email.HTML(src) + r.buttons()
	if r.signature.Footer != "" {
		written += "<hr style=\"margin:14px 0 6px\">\n" + rich.Lines(r.signature.Footer).HTML(src)
	}
	body, _ := field.Parse(written).Fill(func(f field.Field) string {
		f.Name, f.Else = field.Of(html.UnescapeString(string(f.Name))), html.UnescapeString(f.Else)
		return html.EscapeString(v(f, r.language))
	})
	if r.mark != "" {
		body = "<p><strong>" + html.EscapeString(r.mark) + "</strong></p>\n" + body
	}
	return body
}

// letter is the email on paper.
func (r *renderer) letter(v value) (subject string, body rich.Doc, missing field.Name) {
	fill := func(text string) string {
		filled, empty := field.Parse(text).Fill(r.in(v))
		missing = cmp.Or(missing, empty)
		return filled
	}
	subject, missing = r.subject.Fill(r.in(v))
	body = r.written.Email.Map(fill).MapLinks(fill)
	if r.signature.Footer != "" {
		body.Content = append(body.Content, rich.Lines("\n"+fill(r.signature.Footer)).Content...)
	}
	return subject, body, missing
}
