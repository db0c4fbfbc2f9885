package plan

import (
	"cmp"

	"upperlantern/internal/core/field"
	"upperlantern/internal/core/push"
)

// pushed is a push as it is written.
type pushed struct{ title, body, link field.Template }

// newPushed marks the title. One that follows a subject is prefixed like it;
// without any it is the organisation.
func (p *Plan) newPushed(mark string) pushed {
	title, body := p.written.PushContent()
	if title != "" && !p.Draft.Push.Own {
		title = p.prefixed(title)
	}
	return pushed{
		field.Parse(mark + cmp.Or(title, p.Settings.Organisation)), field.Parse(body), field.Parse(p.written.Push.Link),
	}
}

// fillPush fills what a device shows. A body that follows the text is shortened
// to what a push takes; words written for it are left alone.
func (p *Plan) fillPush(w pushed, value func(field.Field) string) (out content, missing field.Name) {
	if out.subject, missing = w.title.Fill(value); missing != "" {
		return content{}, missing
	}
	if out.body, missing = w.body.Fill(value); missing != "" {
		return content{}, missing
	}
	out.link, missing = w.link.Fill(value)
	payload := push.Payload{
		Title: out.subject, Body: out.body, Link: out.link, Badge: p.Draft.Push.Badge, Quiet: p.Draft.PushIsQuiet(),
		Language: p.Settings.Language,
	}
	if !p.Draft.Push.Own {
		payload = payload.Fit()
	}
	out.body, out.bytes = payload.Body, payload.Size()
	return out, missing
}
