package plan

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/dates"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/push"
	"upperlantern/internal/core/roster"
)

// ProblemCode names a problem.
type ProblemCode string

// What keeps a message from being sent.
const (
	NoAudience    ProblemCode = "no-audience"
	NobodyLeft    ProblemCode = "nobody-left"
	NothingToSay  ProblemCode = "no-content"
	UnknownField  ProblemCode = "unknown-field"
	NobodyReached ProblemCode = "nobody-reached"
	TooLarge      ProblemCode = "files-too-large"
	NotYours      ProblemCode = "identity"
	NoReason      ProblemCode = "no-reason"
	NotAllowed    ProblemCode = "not-allowed"
	NoTesters     ProblemCode = "no-testers"
	PushTooLarge  ProblemCode = "push-too-large"
	NoLink        ProblemCode = "push-link"
)

// What is only to be looked at again, the heaviest first.
const (
	MissingPart   ProblemCode = "missing-part"
	NoFiles       ProblemCode = "no-files"
	OddDate       ProblemCode = "odd-date"
	EmptyField    ProblemCode = "empty-field"
	OverBudget    ProblemCode = "over-budget"
	Unreached     ProblemCode = "unreached"
	NoSubject     ProblemCode = "no-subject"
	Clash         ProblemCode = "clash"
	OddTime       ProblemCode = "odd-time"
	PublicHoliday ProblemCode = "holiday"
	FilesUnseen   ProblemCode = "files-unseen"
	OverLimit     ProblemCode = "over-limit"
	BigAudience   ProblemCode = "big-audience"
)

// Place is where in Write a problem is mended.
type Place string

const (
	InWho       Place = "who"
	InEmail     Place = "email"
	InSubject   Place = "subject"
	InFiles     Place = "files"
	InPush      Place = "push"
	InSender    Place = "sender"
	InSteps     Place = "steps"
	InTime      Place = "time"
	InEmergency Place = "emergency"
	InLeftOut   Place = "left-out"
)

// Problem is something to mend. Blocks means that nothing can be sent until then.
type Problem struct {
	Code     ProblemCode
	Sentence string
	Mend     Place
	Blocks   bool
}

// problems lists what keeps a plan from being sent, then what is to be looked
// at again, the heaviest first.
func (p *Plan) problems(r *roster.Roster, s Summary) []Problem {
	list := p.blocks(r)
	if len(list) == 0 && len(p.Recipients) == 0 {
		list = append(list, Problem{NobodyReached, "Nobody can be reached this way: see who gets nothing, and why.", InLeftOut, true})
	}
	return append(list, p.warnings(s)...)
}

func (p *Plan) blocks(r *roster.Roster) []Problem {
	var list []Problem
	block := func(code ProblemCode, mend Place, sentence string) {
		if !slices.ContainsFunc(list, func(p Problem) bool { return p.Sentence == sentence }) {
			list = append(list, Problem{code, sentence, mend, true})
		}
	}
	including := slices.ContainsFunc(p.Draft.Audience.Parts, notLeavingOut)
	switch {
	case p.exercise() && !including:
		block(NoTesters, InEmergency, "Nobody is named to test emergencies. Name testers in the settings, or switch the exercise off.")
	case !including:
		block(NoAudience, InWho, "Nobody is chosen yet. Add a group, a role or a person.")
	case len(p.Audience.Recipients)+len(p.Audience.LeftOut) == 0:
		block(NobodyLeft, InWho, "The parts come to nobody: there is no one in them, or everybody is left out again.")
	}
	if p.Draft.Wordless() {
		block(NothingToSay, InEmail, "There is nothing to send yet. Write the message.")
	}
	if value := p.borrowed(r); value != "" {
		block(NotYours, InSender, fmt.Sprintf("Your account may not write as %s.", value))
	}
	if p.Draft.Urgency == roster.Emergency && p.Settings.NoEmergency {
		block(NotAllowed, InEmergency, "Your account may not write emergencies.")
	}
	if p.Draft.Urgency == roster.Emergency && strings.TrimSpace(p.Draft.Reason) == "" {
		block(NoReason, InEmergency, "Say why it is an emergency; it stands in the record.")
	}
	if err := attachment.CheckAll(p.Draft.Files, p.Settings.Sending.LargestMail()); err != nil {
		block(TooLarge, InFiles, strings.ToUpper(err.Error()[:1])+err.Error()[1:]+".")
	}
	for _, name := range p.render.unknown(p.filler.known) {
		if asked, is := strings.CutPrefix(name, message.AskPrefix); is {
			block(UnknownField, InEmail, fmt.Sprintf("The template asks for “%s”: write it in its place.", strings.TrimSpace(asked)))
			continue
		}
		block(UnknownField, InEmail, fmt.Sprintf("There is no field “%s”. Fields are: %s.", name, fieldNames(r)))
	}
	if !p.Draft.Push.Opens() {
		block(NoLink, InPush, fmt.Sprintf("The push cannot open “%s”: it is no web address, which begins with https://.", p.Draft.Push.Link))
	}
	if n, people := p.oversized(); people > 0 {
		block(PushTooLarge, InPush, fmt.Sprintf("The push has %s for %s, and a device takes %s. Shorten it.",
			Count(n, "byte", "bytes"), Count(people, "person", "people"), Thousands(push.Most)))
	}
	return list
}

// oversized is the size of the largest push that no device takes, and how many
// people it is for.
func (p *Plan) oversized() (bytes, people int) {
	for _, d := range p.Deliveries {
		if d.Bytes > push.Most {
			bytes, people = max(bytes, d.Bytes), people+len(d.Recipients)
		}
	}
	return bytes, people
}

func (p *Plan) warnings(s Summary) []Problem {
	var list []Problem
	warn := func(code ProblemCode, mend Place, sentence string) {
		list = append(list, Problem{code, sentence, mend, false})
	}
	for i, part := range p.Audience.Parts {
		if part.Missing {
			warn(MissingPart, InWho, fmt.Sprintf("Part %d of the audience is no longer on the roster.", i+1))
		}
	}
	written := strings.Join([]string{p.Draft.Subject, p.Draft.Email.Plain(), p.Draft.TextBody(), p.Draft.VoiceBody(), p.Draft.Push.Title, p.Draft.Push.Body}, "\n")
	if said := attached.FindString(written); said != "" && len(p.Draft.Files) == 0 {
		warn(NoFiles, InFiles, fmt.Sprintf("It says “%s”, but no file goes with it.", strings.ToLower(said)))
	}
	for _, said := range dates.Odd(written, p.First().In(p.Settings.zone(""))) {
		warn(OddDate, InEmail, said)
	}
	out := map[Reason]int{}
	for _, l := range s.LeftOut {
		out[l.Reason] = l.People
	}
	if n := out[FieldEmpty]; n > 0 {
		warn(EmptyField, InLeftOut, Count(n, "person gets", "people get")+" nothing because a field has nothing to fill it. "+FieldEmpty.WayOut())
	}
	if after := p.Settings.Spent + s.Cost; p.Settings.Budget > 0 && after > p.Settings.Budget && s.Cost > 0 {
		currency := p.Settings.Currency
		warn(OverBudget, InSteps, fmt.Sprintf("It takes this month to %s of a budget of %s.", after.Format(currency), p.Settings.Budget.Format(currency)))
	}
	if n := out[NoAddress] + out[AllDead] + out[NoGuardian] + out[GuardiansGetNothing]; n > 0 {
		warn(Unreached, InLeftOut, "No channel reaches "+Count(n, "person", "people")+".")
	}
	if p.Draft.Has(roster.Email) && strings.TrimSpace(p.Draft.Subject) == "" && p.peopleBy(roster.Email) > 0 {
		warn(NoSubject, InSubject, "The email has no subject.")
	}
	for _, near := range p.clashes() {
		warn(Clash, InTime, near)
	}
	for _, note := range p.timeNotes() {
		warn(OddTime, InTime, note)
	}
	if name := p.holiday(); name != "" {
		warn(PublicHoliday, InTime, "It leaves on a public holiday: "+name+".")
	}
	if n := p.withoutEmail(); n > 0 && len(p.Draft.Files) > 0 {
		warn(FilesUnseen, InFiles, Count(n, "person gets", "people get")+" it without the "+map[bool]string{true: "file", false: "files"}[len(p.Draft.Files) == 1]+", because not by email.")
	}
	if s.Load.Over > 0 {
		warn(OverLimit, InWho, Count(s.Load.Over, "person goes", "people go")+" over the limit of "+Count(p.Settings.Sending.LoadLimit, "message", "messages")+" in 7 days.")
	}
	if s.Recipients >= p.Settings.Sending.Big() {
		warn(BigAudience, InWho, "That is a big audience: "+Count(s.Recipients, "person", "people")+".")
	}
	return list
}

// attached are words that promise a file. A text in another language is not
// looked at for them.
var attached = regexp.MustCompile(`(?i)\b(?:attached|attachment|enclosed|see the (?:map|form|file|picture|leaflet) below)\b`)

func (p *Plan) withoutEmail() int { return len(p.Recipients) - p.peopleBy(roster.Email) }

// Near is another message that was sent, or is to leave, at about the same time.
type Near struct {
	Author int64  // the account that wrote it
	Title  string // "" when the sender may not see it
	At     time.Time
	To     map[roster.PersonID]bool
}

// NearTime is how near to each other two messages are when they clash.
const NearTime = time.Hour

// clashes says which other messages reach the same people at about the same time.
func (p *Plan) clashes() []string {
	var list []string
	for _, near := range p.Settings.Near {
		if len(p.Recipients) == 0 || p.First().Sub(near.At).Abs() > NearTime {
			continue
		}
		both := 0
		for _, rec := range p.Recipients {
			if near.To[p.filler.roster.At(rec.Person).ID] {
				both++
			}
		}
		if both > 0 {
			title := "A message of another unit"
			if near.Title != "" {
				title = "“" + near.Title + "”"
			}
			list = append(list, fmt.Sprintf("%s goes to %s of these people too, on %s.", title, Thousands(both), p.Settings.Moment(near.At)))
		}
	}
	return list
}

func (p *Plan) holiday() string {
	if p.Settings.Holiday == nil || p.Draft.Urgency == roster.Emergency {
		return ""
	}
	return p.Settings.Holiday(p.First().In(p.Settings.zone("")))
}

func notLeavingOut(p audience.Part) bool { return !p.LeaveOut }

func fieldNames(r *roster.Roster) string {
	fields := Fields(r)
	names := make([]string, len(fields))
	for i, n := range fields {
		names[i] = string(n)
	}
	return strings.Join(names, ", ")
}
