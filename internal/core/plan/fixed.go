package plan

import (
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
)

// Fixed is what an organisation and a sender bring to a message that is kept with
// it when it is sent: nothing that is set later changes what was sent.
type Fixed struct {
	Organisation string                              `json:"organisation"`
	Sender       string                              `json:"sender"`
	Reach        roster.Scope                        `json:"reach"`    // whom the sender's account reaches
	Language     string                              `json:"language"` // in which messages are written, BCP 47
	TimeZone     string                              `json:"timeZone"` // of the organisation, IANA
	Region       string                              `json:"region"`   // whose holidays count, ISO 3166
	Currency     string                              `json:"currency"` // ISO 4217
	Rates        Rates                               `json:"rates"`
	Steps        map[roster.Urgency]precedence.Steps `json:"steps"`           // nil entries mean precedence.Default
	Identity     roster.Identity                     `json:"identity"`        // under which the organisation writes
	Mailbox      string                              `json:"mailbox"`         // from which emails come, and to which replies go
	Own          string                              `json:"own"`             // the sender's own mailbox, or ""
	Signature    roster.Signature                    `json:"signature"`       // how the writing unit signs
	NoEmergency  bool                                `json:"noEmergency"`     // the sender may not write emergencies
	Desks        bool                                `json:"desks,omitempty"` // answers come to a desk
	Sending      Sending                             `json:"sending"`
	Off          []roster.Channel                    `json:"off,omitempty"` // that nothing carries
}

// StepsFor are the steps that apply to a draft.
func (s Fixed) StepsFor(d message.Draft) precedence.Steps {
	if d.Steps != nil {
		return d.Steps
	}
	return s.DefaultSteps(d.Urgency)
}

// DefaultSteps are the organisation's steps for an urgency.
func (s Fixed) DefaultSteps(u roster.Urgency) precedence.Steps {
	if own, ok := s.Steps[u]; ok {
		return own
	}
	return precedence.Default(u)
}
