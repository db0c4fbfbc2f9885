package route

import (
	"reflect"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/carrying"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/job"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/report"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/seek"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
)

// enumerations are the closed lists of values, by their type. Where a field has an
// enum of its own, it takes fewer values, or none besides.
var enumerations = map[reflect.Type][]any{}

// oneOf describes a type with a closed list of values.
type oneOf[T any] struct{}

// Schema gives the values of the type.
func (oneOf[T]) Schema(huma.Registry) *huma.Schema {
	return &huma.Schema{Type: huma.TypeString, Enum: enumerations[reflect.TypeFor[T]()]}
}

func enumerate[T any](r huma.Registry, values []T) {
	list := make([]any, len(values))
	for i, v := range values {
		list[i] = reflect.ValueOf(v).String()
	}
	enumerations[reflect.TypeFor[T]()] = list
	r.RegisterTypeAlias(reflect.TypeFor[T](), reflect.TypeFor[oneOf[T]]())
}

// Enumerate describes the types whose values are closed lists, each written once
// where the type is.
func Enumerate(r huma.Registry) {
	enumerate(r, roster.Channels)
	enumerate(r, roster.Urgencies)
	enumerate(r, roster.Statuses)
	enumerate(r, roster.Healths)
	enumerate(r, roster.Kinds)
	enumerate(r, roster.AttributeKinds)
	enumerate(r, roster.Subjects)
	enumerate(r, roster.AllTests)
	enumerate(r, roster.EditKinds)
	enumerate(r, audience.Kinds)
	enumerate(r, carrying.Securities)
	enumerate(r, desk.AllWaits)
	enumerate(r, desk.Withs)
	enumerate(r, job.Parts)
	enumerate(r, job.AllStands)
	enumerate(r, store.EntryKinds)
	enumerate(r, carrying.Proofs)
	enumerate(r, copies.Sources)
	enumerate(r, copies.States)
	enumerate(r, copies.Codes)
	enumerate(r, delivery.States)
	enumerate(r, intake.DateOrders)
	enumerate(r, lines.Faces)
	enumerate(r, record.Outcomes)
	enumerate(r, report.Bys)
	enumerate(r, report.Kinds)
	enumerate(r, report.Forms)
	enumerate(r, report.Tones)
	enumerate(r, seek.Ons)
	enumerate(r, standin.Kinds)
	enumerate(r, store.MessageStates)
	enumerate(r, store.ShelfKinds)
	enumerate(r, store.ImportStates)
}
