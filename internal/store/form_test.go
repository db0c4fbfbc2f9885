package store

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type boat struct {
	Name  string `json:"name"`
	Seats int    `json:"seats"`
}

// The second version of this form counts seats; the third calls the boat’s title its name.
var boats = form{name: "a boat", steps: []func(json.RawMessage) (json.RawMessage, error){
	func(m json.RawMessage) (json.RawMessage, error) {
		return bytes.Replace(m, []byte(`}`), []byte(`,"seats":1}`), 1), nil
	},
	func(m json.RawMessage) (json.RawMessage, error) {
		return bytes.Replace(m, []byte(`"title"`), []byte(`"name"`), 1), nil
	},
}}

func TestADocumentOfAnyVersionIsRead(t *testing.T) {
	for name, text := range map[string]string{
		"of before versions": `{"title":"Heron"}`,
		"the first":          `{"version":1,"of":{"title":"Heron"}}`,
		"the second":         `{"version":2,"of":{"title":"Heron","seats":1}}`,
		"the present":        `{"version":3,"of":{"name":"Heron","seats":1}}`,
	} {
		t.Run(name, func(t *testing.T) {
			var b boat
			require.NoError(t, boats.read(text, &b))
			assert.Equal(t, boat{"Heron", 1}, b)
		})
	}
}

func TestADocumentIsWrittenInThePresentVersion(t *testing.T) {
	text, err := boats.write(boat{"Heron", 4})
	require.NoError(t, err)
	assert.JSONEq(t, `{"version":3,"of":{"name":"Heron","seats":4}}`, text)
	var b boat
	require.NoError(t, boats.read(text, &b))
	assert.Equal(t, boat{"Heron", 4}, b)
}

func TestADocumentThatCannotBeRead(t *testing.T) {
	var b boat
	require.ErrorContains(t, boats.read(`{"version":4,"of":{}}`, &b), "it is of version 4, and this program knows 3")
	require.ErrorContains(t, boats.read(`{"version":`, &b), "reading a boat")
	require.ErrorContains(t, form{name: "a boat"}.read("", &b), "reading a boat")
	var list []string
	require.NoError(t, form{name: "a list"}.read(`["a"]`, &list), "a list of before versions")
	assert.Equal(t, []string{"a"}, list)
}
