package roster

import (
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"
)

// Identifiers are those of the store; zero never names anything. Negative
// ones stand for people and groups of an edit that do not exist yet.
type (
	PersonID    int64
	GroupID     int64
	AddressID   int64
	UnitID      int64
	AttributeID int64
)

// Date is a day as ISO 8601 writes it, such as 2026-11-28, or "" for none.
// Dates compare as strings do.
type Date string

// Valid reports whether d is a day of the calendar, or none.
func (d Date) Valid() bool {
	if d == "" {
		return true
	}
	_, err := time.Parse(time.DateOnly, string(d))
	return err == nil
}

// Channel is a way of carrying a message.
type Channel string

const (
	Email Channel = "email"
	Text  Channel = "text"
	Voice Channel = "voice"
	Push  Channel = "push"
)

// Channels lists every channel in the order in which they are shown.
var Channels = []Channel{Email, Text, Voice, Push}

// Valid reports whether c is one of Channels.
func (c Channel) Valid() bool { return slices.Contains(Channels, c) }

// Urgency says how much a message may override.
type Urgency string

const (
	Routine   Urgency = "routine"
	Timely    Urgency = "timely"
	Emergency Urgency = "emergency"
)

// Urgencies lists every urgency from least to most.
var Urgencies = []Urgency{Routine, Timely, Emergency}

// Valid reports whether u is one of Urgencies.
func (u Urgency) Valid() bool { return slices.Contains(Urgencies, u) }

// Role is what a person is here. An organisation may add its own.
type Role string

const (
	Guardian  Role = "guardian"
	Staff     Role = "staff"
	Member    Role = "member"
	Field     Role = "field"
	Dependent Role = "dependent"
)

// Roles lists the built-in roles in the order in which they are shown.
var Roles = []Role{Guardian, Staff, Member, Field, Dependent}

// Status says whether a person is to be written to at all.
type Status string

const (
	Active Status = "active"
	Away   Status = "away"
	Left   Status = "left"
)

// Statuses lists every status in the order in which they are shown.
var Statuses = []Status{Active, Away, Left}

// Health is what earlier deliveries taught about an address.
type Health string

const (
	Untried Health = "untried"
	Good    Health = "good"
	Failing Health = "failing"
	Dead    Health = "dead"
)

// Healths lists every health of an address.
var Healths = []Health{Untried, Good, Failing, Dead}

// DeviceKinds are the labels of push addresses.
var DeviceKinds = []string{"phone", "browser", VehicleTerminal}

// VehicleTerminal is a device in a vehicle, which only shows messages while its app is open.
const VehicleTerminal = "vehicle terminal"

// Address is one way to reach a person. A number that takes texts and calls
// is two addresses with the same value.
type Address struct {
	ID      AddressID `json:"id,omitempty"`
	Channel Channel   `json:"channel"`
	Value   string    `json:"value" doc:"A mailbox, a number in E.164, or the name of a device, by which those who share it share it"`
	Label   string    `json:"label,omitempty" doc:"What the roster calls it: mobile, landline, work; for a device its kind"`
	Health  Health    `json:"health,omitempty"`
	// LastFailure is what the carrier said when it last failed.
	LastFailure string `json:"lastFailure,omitempty"`
	FailedOn    Date   `json:"failedOn,omitempty"`
	CheckedOn   Date   `json:"checkedOn,omitempty" doc:"When somebody last made sure that it is right"`

	DeclinesRoutine bool `json:"declinesRoutine,omitempty"`
	DeclinesTimely  bool `json:"declinesTimely,omitempty"`
	// CarrierStop is a stop that the carrier itself recorded, or a device that
	// does not allow push: the delivery would be refused whatever we decide.
	CarrierStop bool `json:"carrierStop,omitempty"`
	// Connected is a device that said where push reaches it.
	Connected bool `json:"connected,omitempty" doc:"Of a device: it takes messages"`
}

// Declines reports whether consent is withheld for messages of urgency u.
// Nobody can decline an emergency.
func (a Address) Declines(u Urgency) bool {
	switch u {
	case Routine:
		return a.DeclinesRoutine
	case Timely:
		return a.DeclinesTimely
	default:
		return false
	}
}

// Usable reports whether a delivery to the address can arrive at all.
func (a Address) Usable() bool { return a.Health != Dead && !a.CarrierStop && !a.Unconnected() }

// Unconnected reports whether it is a device that push does not reach yet.
func (a Address) Unconnected() bool { return a.Channel == Push && !a.Connected }

// Is reports whether two addresses lead to the same place by the same channel.
func (a Address) Is(b Address) bool { return a.Channel == b.Channel && a.Value == b.Value }

// Value is what a person has for one attribute, in the form that its kind
// keeps: text and choices as they are, numbers with a decimal point, ISO 8601
// dates, yes or no.
type Value struct {
	Attribute AttributeID `json:"attribute"`
	Value     string      `json:"value"`
}

// Person is anybody on the roster, with addresses in the order of preference.
type Person struct {
	ID         PersonID  `json:"id,omitempty"`
	ExternalID string    `json:"externalId,omitempty" doc:"The identifier in the organisation's own files"`
	GivenName  string    `json:"givenName"`
	FamilyName string    `json:"familyName,omitempty"`
	KnownAs    string    `json:"knownAs,omitempty" doc:"What they are called, if it is not the given name"`
	Roles      []Role    `json:"roles"`
	Language   string    `json:"language,omitempty" doc:"A BCP 47 tag; absent when unknown"`
	Status     Status    `json:"status"`
	AwayUntil  Date      `json:"awayUntil,omitempty" doc:"The last day away; absent while nobody knows"`
	BornOn     Date      `json:"bornOn,omitempty"`
	Unit       UnitID    `json:"unit,omitempty" doc:"Absent for the organisation as a whole"`
	TimeZone   string    `json:"timeZone,omitempty" doc:"IANA, if it is not the organisation's"`
	Wish       Channel   `json:"wish,omitempty" doc:"The channel they asked for first" enum:"email,text,voice,push,"`
	Notes      string    `json:"notes,omitempty"`
	Values     []Value   `json:"values,omitempty" doc:"By attribute"`
	Addresses  []Address `json:"addresses"`

	ReachedOn Date  `json:"reachedOn,omitempty" doc:"When a message last arrived; kept by the program"`
	Version   int64 `json:"version,omitempty" doc:"Grows with every edit"`
	// Beyond is a stranger whose address belongs to somebody whom the scope does not reach.
	Beyond bool `json:"-"`
}

// Name is the full name in the order given name, family name.
func (p *Person) Name() string {
	if FamilyFirst(p.GivenName) && FamilyFirst(p.FamilyName) {
		return p.FamilyName + p.GivenName
	}
	return strings.TrimSpace(p.GivenName + " " + p.FamilyName)
}

// FamilyFirst reports whether a name is in a script that has the family name first, and
// writes it without a space: Chinese, Japanese or Korean.
func FamilyFirst(name string) bool {
	if name == "" || name[0] < utf8.RuneSelf {
		return false
	}
	for _, r := range name {
		if r != ' ' && !unicode.In(r, unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Hangul) {
			return false
		}
	}
	return true
}

// First is the name to greet them by.
func (p *Person) First() string {
	if p.KnownAs != "" {
		return p.KnownAs
	}
	return p.GivenName
}

// Stranger reports whether p stands for an address that nobody on the roster has.
func (p *Person) Stranger() bool { return p.ID < 0 }

// ActiveOn reports whether p can be written to on a day: somebody whose last
// day away is before it can.
func (p *Person) ActiveOn(day Date) bool {
	return p.Status == Active || p.Status == Away && p.AwayUntil != "" && p.AwayUntil < day
}

// Has reports whether p has the role.
func (p *Person) Has(role Role) bool { return slices.Contains(p.Roles, role) }

// Value returns what p has for an attribute, or "".
func (p *Person) Value(id AttributeID) string {
	for _, v := range p.Values {
		if v.Attribute == id {
			return v.Value
		}
	}
	return ""
}

// Reaches reports whether any of p's addresses is usable on a channel, or on
// any channel for "".
func (p *Person) Reaches(c Channel) bool {
	return slices.ContainsFunc(p.Addresses, func(a Address) bool { return (c == "" || a.Channel == c) && a.Usable() })
}

// Tie joins a guardian to a dependent.
type Tie struct {
	Guardian  PersonID `json:"guardian"`
	Dependent PersonID `json:"dependent"`
	Receives  bool     `json:"receives" doc:"The guardian receives messages about the dependent"`
	Barred    bool     `json:"barred" doc:"Contact is barred, for example by a court"`
}

// Kind says how a group comes by its people.
type Kind string

const (
	Picked Kind = "picked"
	ByRule Kind = "rule"
	Job    Kind = "job"
)

// Kinds lists every kind of group.
var Kinds = []Kind{Picked, ByRule, Job}

// Identity is how recipients see a message that reached them through a group.
type Identity struct {
	Name   string `json:"name,omitempty" doc:"Who emails are from"`
	Number string `json:"number,omitempty" doc:"E.164, which texts show"`
	Caller string `json:"caller,omitempty" doc:"E.164, which calls show"`
}

// Group gathers people under a name.
type Group struct {
	ID       GroupID    `json:"id,omitempty"`
	Name     string     `json:"name"`
	Unnamed  bool       `json:"unnamed,omitempty" doc:"The name is made from the members until somebody gives one"`
	Kind     Kind       `json:"kind"`
	Unit     UnitID     `json:"unit,omitempty" doc:"Absent for the organisation as a whole"`
	Archived bool       `json:"archived,omitempty"`
	Rule     Rule       `json:"rule,omitempty" doc:"Who is in it, of a group by rule"`
	Identity Identity   `json:"identity,omitempty"`
	Starts   *time.Time `json:"starts,omitempty" doc:"Of a job"`
	Ends     *time.Time `json:"ends,omitempty" doc:"When a job is expected to end"`
	Closed   *time.Time `json:"closed,omitempty" doc:"When a job was closed"`
	Place    string     `json:"place,omitempty" doc:"Of a job"`
	// Reference is how others call a job, such as the control room.
	Reference string `json:"reference,omitempty" maxLength:"80" doc:"Of a job, as others call it"`

	Members []PersonID `json:"-"`
	Inside  []GroupID  `json:"inside,omitempty" doc:"The groups nested in it"`
	Beyond  int        `json:"-"` // members, here and inside, whom the scope does not reach
}

// AttributeKind says what values an attribute takes.
type AttributeKind string

const (
	TextAttribute   AttributeKind = "text"
	NumberAttribute AttributeKind = "number"
	DateAttribute   AttributeKind = "date"
	ChoiceAttribute AttributeKind = "choice"
	YesNoAttribute  AttributeKind = "yes-no"
)

// AttributeKinds lists every kind in the order in which they are offered.
var AttributeKinds = []AttributeKind{TextAttribute, NumberAttribute, DateAttribute, ChoiceAttribute, YesNoAttribute}

// Attribute is something that the organisation keeps about people.
type Attribute struct {
	ID      AttributeID   `json:"id,omitempty"`
	Name    string        `json:"name"`
	Kind    AttributeKind `json:"kind"`
	Choices []string      `json:"choices,omitempty"`
}
