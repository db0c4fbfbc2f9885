package plan

import (
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
)

// Content is all that a delivery of the plan says, as its carrier gets it.
func (p *Plan) Content(d Delivery) delivery.Content {
	c := delivery.Content{
		Channel: d.Channel, Language: d.Language, Subject: d.Subject, Body: d.Body, Link: d.Link,
		HTML: p.HTML(d, delivery.ContentID),
	}
	written := p.readings[d.reading].written
	switch d.Channel {
	case roster.Email:
		c.Parts = delivery.Parts{
			Mailbox: p.Settings.Mailbox, ReplyTo: p.Draft.ReplyTo, Replies: p.Settings.Desks && p.Draft.ReplyTo == "",
			OneClick: p.Draft.Urgency == roster.Routine,
			Files:    written.Files,
		}
	case roster.Voice:
		c.Parts = delivery.Parts{RepeatKey: p.Draft.Voice.RepeatKey, ConfirmKey: p.Draft.Voice.ConfirmKey}
		if r := written.Voice.Recording; r != nil {
			c.Parts.Recording = r.Hash
		}
	case roster.Push:
		c.Parts = delivery.Parts{Badge: p.Draft.Push.Badge, Quiet: p.Draft.PushIsQuiet(), Urgency: p.Draft.Urgency}
	}
	c.Parts.Choices = p.readings[d.reading].choices()
	return c
}
