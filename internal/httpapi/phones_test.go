package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/testkit"
)

const (
	ownPhone   = "+447700900999" // of Naya, whose mailbox becomes that of the test account
	piotrPhone = "+447700900418"
)

// withPhone puts the test account's mailbox on the roster, and lets it be told.
func withPhone(t *testing.T) deskOffice {
	t.Helper()
	o := atDesk(t, "")
	message := o.c.Problem(http.StatusUnprocessableEntity, http.MethodPut, "/api/desks/1/phone", `{"on":true}`)
	assert.Contains(t, message, "nobody on the roster has your sign-in")
	sheet := person(o.c, 7).Sheet
	sheet.Addresses = append(sheet.Addresses, roster.Address{Channel: roster.Email, Value: testkit.Login})
	save(t, o.c, sheet)
	o.c.Want(http.StatusNoContent, http.MethodPut, "/api/desks/1/phone", `{"on":true}`, nil)
	var at struct {
		Number string
		On     bool
	}
	o.c.Want(http.StatusOK, http.MethodGet, "/api/desks/1/phone", nil, &at)
	assert.True(t, at.On)
	assert.Equal(t, "+44 7700 900999", at.Number)
	return o
}

// told are the texts that the office's phone got, the oldest first.
func (o deskOffice) told(n int) []string {
	o.Helper()
	o.got(ownPhone, n)
	list := o.had(ownPhone)
	for i, j := 0, len(list)-1; i < j; i, j = i+1, j-1 {
		list[i], list[j] = list[j], list[i]
	}
	return list
}

// Whoever sits at a desk is told by text, and answers from their phone; neither sees the
// other's number.
func TestAnsweringFromOnesOwnPhone(t *testing.T) {
	o := withPhone(t)
	o.texts(piotrPhone, "K1", "Where do we meet?")
	notice := o.told(1)[0]
	assert.Equal(t, "Club office: Piotr Zielony wrote “Where do we meet?”. To answer, send 11 and your words.", notice)
	o.texts(ownPhone, "P1", "11 At the lower gate")
	o.texts(ownPhone, "P1", "11 At the lower gate") // the gateway says it twice
	list := o.threads(1, "")
	require.Equal(t, 1, list.All, "it is no thread of its own")
	thread := o.read(list.Threads[0].ID)
	require.Len(t, thread.Entries, 2)
	answer := thread.Entries[1]
	assert.Equal(t, [2]string{"out", "At the lower gate"}, [2]string{answer.Kind, answer.Said})
	assert.Equal(t, "them", thread.Thread.Waits)
	o.leaves(answer.Message)
	assert.Equal(t, "At the lower gate", o.got(piotrPhone, 1).Body)
	assert.NotContains(t, strings.Join(o.had(piotrPhone), " "), "900999")

	// Other texts of theirs come in like any others; a code of nobody's is none.
	o.texts(ownPhone, "P2", "I am late")
	o.texts(ownPhone, "P3", "12 boats are out")
	testkit.Eventually(t, "it is a thread with them", func() bool { return o.threads(1, "").All == 2 })
	o.texts(piotrPhone, "K2", "11 of us come") // the code is not his
	assert.Len(t, o.read(list.Threads[0].ID).Entries, 3)
	assert.Equal(t, "in", o.read(list.Threads[0].ID).Entries[2].Kind)
}

// What the text gateway does not take while it is down is told once it is up again.
func TestWhatTheGatewayDidNotTakeIsToldLater(t *testing.T) {
	o := withPhone(t)
	require.NoError(t, o.i.Box.SetDown(t.Context(), roster.Text, standin.Forever))
	o.texts(piotrPhone, "K1", "Where do we meet?")
	require.NoError(t, o.i.Desks.Tick(t.Context()), "a gateway that is down is no fault of the desk")
	assert.Equal(t, "us", o.only().Thread.Waits)
	require.NoError(t, o.i.Box.SetDown(t.Context(), roster.Text, time.Time{}))
	require.NoError(t, o.i.Desks.Tick(t.Context()))
	assert.Empty(t, o.had(ownPhone), "not every second")
	o.clock.Pass(desk.TellAgain + time.Second)
	require.NoError(t, o.i.Desks.Tick(t.Context()))
	assert.Contains(t, o.told(1)[0], "“Where do we meet?”")
	o.clock.Pass(desk.TellAgain + time.Second)
	require.NoError(t, o.i.Desks.Tick(t.Context()))
	assert.Len(t, o.told(1), 1, "and once")
}

// Of the same thread one is told again after ten minutes, of ten things within them at
// most, and of nothing that was read at the desk.
func TestLimitsOfTelling(t *testing.T) {
	o := withPhone(t)
	o.texts(piotrPhone, "K1", "One")
	o.told(1)
	o.texts(piotrPhone, "K2", "Two")
	for n := range 12 {
		o.texts(fmt.Sprintf("+4477009008%02d", n), fmt.Sprint("N", n), "Hello")
	}
	told := o.told(desk.MostTold)
	assert.Contains(t, told[1], "Club office: Somebody who is not on the roster wrote “Hello”")
	assert.NotContains(t, strings.Join(told, " "), "900800")
	require.NoError(t, o.i.Desks.Tick(t.Context()))
	assert.Len(t, o.had(ownPhone), desk.MostTold)
	for _, thread := range o.threads(1, "").Threads {
		if thread.Person == 0 {
			o.act(http.StatusNoContent, thread.ID, "read", "")
		}
	}
	o.clock.Pass(desk.TellAgain)
	told = o.told(desk.MostTold + 1)
	assert.Contains(t, told[len(told)-1], "“Two”")
	assert.Contains(t, told[len(told)-1], "send 11 and", "a thread keeps its code")
}

// Who looks at a thread is not told of it until they look away.
func TestWhoLooksIsNotTold(t *testing.T) {
	o := withPhone(t)
	o.texts(piotrPhone, "K1", "One")
	o.told(1)
	o.clock.Pass(desk.TellAgain)
	thread := o.threads(1, "").Threads[0].ID
	o.act(http.StatusNoContent, thread, "here", `{"writing":false}`)
	o.texts(piotrPhone, "K2", "Two")
	require.NoError(t, o.i.Desks.Tick(t.Context()))
	assert.Len(t, o.had(ownPhone), 1)
	o.clock.Pass(time.Minute)
	assert.Contains(t, o.told(2)[1], "“Two”")
}

// What cannot be sent is said to the phone, and who does not sit at the desk any more
// answers nothing.
func TestAnAnswerFromAPhoneThatCannotBeSent(t *testing.T) {
	o := withPhone(t)
	o.texts(piotrPhone, "K1", "Where do we meet?")
	o.told(1)
	o.texts(piotrPhone, "K2", "STOP")
	o.got(piotrPhone, 1)
	o.texts(ownPhone, "P1", "11 At the gate")
	refused := o.told(2)[1]
	assert.Contains(t, refused, "Not sent: ")
	assert.Contains(t, refused, "they asked to be sent nothing there")
	assert.Len(t, o.had(piotrPhone), 1)

	o.texts(piotrPhone, "K3", "START")
	o.got(piotrPhone, 2)
	o.c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", deskBody(1, "Club office", "", ""), nil)
	o.texts(ownPhone, "P2", "11 At the gate")
	assert.Contains(t, o.told(3)[2], "Not sent: ")
	o.clock.Pass(desk.CodeHolds)
	o.texts(ownPhone, "P3", "11 At the gate")
	assert.Len(t, o.had(ownPhone), 3)
}

// Telling is for whoever sits at the desk.
func TestOnlyMembersAreTold(t *testing.T) {
	o := atDesk(t, "")
	o.c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", deskBody(1, "Club office", "", ""), nil)
	o.c.Want(http.StatusNotFound, http.MethodGet, "/api/desks/1/phone", nil, nil)
	o.c.Want(http.StatusNotFound, http.MethodPut, "/api/desks/1/phone", `{"on":true}`, nil)
	o.c.Want(http.StatusUnprocessableEntity, http.MethodPut, "/api/desks/1/phone", `{"on":"yes"}`, nil)
}
