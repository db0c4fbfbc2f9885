package httpapi_test

import (
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

type boardSeen struct {
	Tally struct {
		Asked, Wrote, Silent, OnTheWay, Missed, Fills int
		Choices                                       []int
	}
	Unclear int
	Filled  *time.Time
	Marks   []struct {
		Person          int64
		Name, Stand     string
		Answer, Minutes int
		Numbers         []string
		Groups          []int64
	}
	Groups []struct {
		ID   int64
		Name string
	}
	Latest []struct{ Name, Channel, By, Remark string }
}

const safe = `{"choices":[{"words":"We are safe","means":"counts"},{"words":"We need help","means":"attend"},{"words":"Later","means":"minutes"}]}`

// question is a timely message to guardians that asks something.
func question(parts, asks string) string {
	return fmt.Sprintf(`{"urgency":"timely","audience":{"parts":[%s],"receivers":"guardians"},"subject":"Are you safe?",`+
		`"email":"Are you safe?","ownText":false,"text":"","firstOnly":false,"question":%s}`, parts, asks)
}

const guardians = `{"kind":"role","role":"guardian"}`

func (o deskOffice) board(id int64) (b boardSeen) {
	o.Helper()
	o.c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/messages/%d/board", id), nil, &b)
	t := b.Tally
	sum := t.Wrote + t.Silent + t.OnTheWay + t.Missed
	for _, n := range t.Choices {
		sum += n
	}
	require.Equal(o.T, t.Asked, sum, "everybody is counted once")
	return b
}

// answered waits until so many people gave an answer.
func (o deskOffice) answered(id int64, choices ...int) (b boardSeen) {
	o.Helper()
	testkit.Eventually(o.T, fmt.Sprint("the answers are ", choices), func() bool {
		b = o.board(id)
		return assert.ObjectsAreEqual(choices, b.Tally.Choices)
	})
	return b
}

// presses presses an answer, or a key, of the last thing that an address got.
func (o deskOffice) presses(address, pressed string) {
	o.Helper()
	items, err := o.i.Box.Received(o.Context(), []string{address})
	require.NoError(o.T, err)
	require.NotEmpty(o.T, items)
	require.NoError(o.T, o.i.Box.Press(o.Context(), []string{address}, items[0].Key, pressed))
}

// A question goes out in every channel, and is answered by each.
func TestAQuestionIsAnsweredByEveryChannel(t *testing.T) {
	o := atDesk(t, "")
	id := sendDraft(t, o.c, question(guardians, safe))
	text := o.got("+447700900417", 1)
	assert.Equal(t, "Are you safe?\n\n1 We are safe\n2 We need help\n3 Later\nReply with a number.", text.Body)
	call := o.got("+447700900188", 1)
	assert.Contains(t, call.Body, "Press 2 for: We need help.")
	mail := o.got("tuan@vo.example", 1)
	assert.Contains(t, mail.Body, "1 We are safe")
	require.Len(t, mail.Choices, 3, mail.HTML)
	assert.Contains(t, mail.Body, mail.Answer, "without HTML there is a link")

	o.texts("+447700900417", "A1", "1.")
	b := o.answered(id, 1, 0, 0)
	assert.Equal(t, 1, b.Tally.Fills)
	thread := o.only()
	assert.Equal(t, "quiet", thread.Thread.Waits, "an answer and nothing else waits for nobody")
	require.NotNil(t, thread.Entries[0].Copy)
	assert.Equal(t, "We are safe", thread.Entries[0].Copy.Text, "the desk need not know the numbers")
	today := func() (list []struct {
		ID    int64
		Tally struct{ Asked, Attend int }
	}) {
		var day struct{ Asking any }
		day.Asking = &list
		o.c.Want(http.StatusOK, http.MethodGet, "/api/today", nil, &day)
		return list
	}
	o.presses("+447700900188", "2")
	o.answered(id, 1, 1, 0)
	require.Len(t, today(), 1)
	assert.Equal(t, 4, today()[0].Tally.Asked)
	assert.Equal(t, 1, today()[0].Tally.Attend)
	o.presses("tuan@vo.example", "1")
	o.answered(id, 2, 1, 0)
	o.texts("+447700900418", "A2", "We are all at home")
	b = o.board(id)
	assert.Equal(t, 1, b.Tally.Wrote)
	assert.Equal(t, []int{2, 1, 0}, b.Tally.Choices)
	o.texts("+447700900418", "A3", "3 20 min")
	b = o.answered(id, 2, 1, 1)
	assert.Equal(t, 3, b.Tally.Fills)
	o.texts("+447700900418", "A3", "3 20 min")
	o.texts("+447700900417", "A4", "2, the river is in the house")
	b = o.answered(id, 1, 2, 1)
	assert.Equal(t, "the river is in the house", b.Latest[0].Remark)
	list := o.threads(1, "find=Rania")
	assert.Equal(t, "us", list.Threads[0].Waits, "somebody has to look after them")

	var s standingOf
	o.c.Record(id, &s)
	assert.Equal(t, 4, s.Message.Figures.Answered)
	assert.Empty(t, today(), "everybody has answered")
	file, _ := exported(t, o.c, fmt.Sprintf(`{"message":%d,"format":"csv"}`, id))
	assert.Contains(t, string(file), "answered: Later (20 min)")
	for _, m := range b.Marks {
		if m.Name == "Piotr Zielony" {
			assert.Equal(t, 20, m.Minutes)
		}
		assert.Empty(t, m.Numbers, "whoever answered needs no call")
	}
}

// page reads a page of a question as a browser does.
func (o deskOffice) page(status int, method, address string, form url.Values) string {
	o.Helper()
	req, err := http.NewRequestWithContext(o.Context(), method, address, strings.NewReader(form.Encode()))
	require.NoError(o.T, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	resp, err := http.DefaultClient.Do(req)
	require.NoError(o.T, err)
	defer resp.Body.Close() //nolint:errcheck // it was read
	content, err := io.ReadAll(resp.Body)
	require.NoError(o.T, err)
	require.Equal(o.T, status, resp.StatusCode, "%s", content)
	return string(content)
}

// The page of a question asks before it takes an answer, which can be changed there. It
// speaks the language of its recipient, and refuses what is no answer.
func TestThePageOfAQuestion(t *testing.T) {
	o := atDesk(t, "")
	id := sendDraft(t, o.c, question(`{"kind":"person","person":4}`, safe))
	link := o.got("tuan@vo.example", 1).Answer
	require.NotEmpty(t, link)
	shown := o.page(http.StatusOK, http.MethodGet, link+"?say=2", nil)
	assert.Contains(t, shown, "You answer: We need help. Is that right?")
	assert.Equal(t, []int{0, 0, 0}, o.board(id).Tally.Choices, "a link that is looked at answers nothing")
	shown = o.page(http.StatusOK, http.MethodPost, link, url.Values{"say": {"2"}})
	assert.Contains(t, shown, "We have your answer: We need help.")
	assert.Contains(t, shown, `class="mine"`)
	o.answered(id, 0, 1, 0)
	o.clock.Pass(time.Minute)
	o.page(http.StatusOK, http.MethodPost, link, url.Values{"say": {"3"}, "minutes": {"25"}})
	b := o.answered(id, 0, 0, 1)
	assert.Equal(t, 25, b.Marks[0].Minutes)
	for name, form := range map[string]url.Values{
		"none of the answers": {"say": {"4"}}, "no answer": {}, "negative": {"say": {"-1"}}, "too many minutes": {"say": {"3"}, "minutes": {"9999"}},
		"somebody else": {"say": {"1"}, "who": {"1"}},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Contains(t, o.page(http.StatusUnprocessableEntity, http.MethodPost, link, form), "could not be kept")
		})
	}
	o.answered(id, 0, 0, 1)
	o.page(http.StatusNotFound, http.MethodGet, o.i.URL+"/answer/ABC.DEF", nil)
	o.page(http.StatusNotFound, http.MethodPost, link+"A", url.Values{"say": {"1"}})
	_, token, _ := strings.Cut(link, "/answer/")
	o.page(http.StatusNotFound, http.MethodGet, o.i.URL+"/stop/"+token, nil)
}

// Of two who share a number, the thread and the page ask who answered; until then nobody
// has.
func TestAnAnswerOfTwoPeople(t *testing.T) {
	o := atDesk(t, "")
	edits(o.c, "Piotr", func(sheet map[string]any) {
		sheet["addresses"] = []any{map[string]any{"channel": "text", "value": "+447700900417"}}
		sheet["language"] = "ar"
	})
	id := sendDraft(t, o.c, question(`{"kind":"person","person":1},{"kind":"person","person":2}`, safe))
	o.got("+447700900417", 1)
	o.texts("+447700900417", "A1", "1")
	b := o.board(id)
	assert.Equal(t, 1, b.Unclear)
	assert.Equal(t, []int{0, 0, 0}, b.Tally.Choices)
	var s standingOf
	o.c.Record(id, &s)
	assert.Zero(t, s.Message.Figures.Answered)
	thread := o.only()
	assert.Equal(t, "us", thread.Thread.Waits)
	o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/threads/%d/identify", thread.Thread.ID), `{"person":2}`, nil)
	b = o.answered(id, 1, 0, 0)
	assert.Zero(t, b.Unclear)
	for _, m := range b.Marks {
		assert.Equal(t, m.Person == 2, m.Answer == 1, m.Name)
	}
}

// So it is when each of them got a text of their own, under their name.
func TestAnAnswerToOneOfTwoTexts(t *testing.T) {
	o := atDesk(t, "")
	edits(o.c, "Piotr", func(sheet map[string]any) {
		sheet["addresses"] = []any{map[string]any{"channel": "text", "value": "+447700900417"}}
		sheet["language"] = "ar"
	})
	named := strings.Replace(question(`{"kind":"person","person":1},{"kind":"person","person":2}`, safe),
		"Are you safe?", "{{first name}}, are you safe?", -1)
	id := sendDraft(t, o.c, named)
	o.got("+447700900417", 2)
	o.texts("+447700900417", "A1", "1")
	b := o.board(id)
	assert.Equal(t, 1, b.Unclear)
	assert.Equal(t, []int{0, 0, 0}, b.Tally.Choices)
	o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/threads/%d/identify", o.only().Thread.ID), `{"person":2}`, nil)
	for _, m := range o.answered(id, 1, 0, 0).Marks {
		assert.Equal(t, m.Person == 2, m.Answer == 1, m.Name)
	}
}

// Whoever has not answered is called and written down, or asked once more.
func TestThoseWhoHaveNotAnswered(t *testing.T) {
	o := atDesk(t, "")
	id := sendDraft(t, o.c, question(guardians, safe))
	o.got("+447700900417", 1)
	o.texts("+447700900417", "A1", "1")
	b := o.answered(id, 1, 0, 0)
	for _, m := range b.Marks {
		if m.Name == "Lena Achterberg" {
			assert.Equal(t, []string{"+44 7700 900188"}, m.Numbers)
		}
	}
	path := fmt.Sprintf("/api/messages/%d", id)
	o.c.Want(http.StatusNoContent, http.MethodPost, path+"/answers", `{"person":3,"answer":2,"remark":"on the roof"}`, nil)
	b = o.answered(id, 1, 1, 0)
	assert.Equal(t, "Hugo Farrowby", b.Latest[0].By)
	for _, bad := range []string{`{"person":3,"answer":4}`, `{"person":5,"answer":1}`, `{"person":0,"answer":1}`, `{"person":3,"answer":1,"minutes":2000}`} {
		o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/answers", bad)
	}

	var again struct {
		ID, Revision int64
		Draft        struct {
			Question struct{ Choices []struct{ Words string } }
		}
	}
	o.c.Want(http.StatusOK, http.MethodPost, path+"/follow", `{"as":"unanswered"}`, &again)
	require.Len(t, again.Draft.Question.Choices, 3)
	o.c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/messages/%d/send", again.ID), fmt.Sprintf(`{"revision":%d}`, again.Revision), nil)
	o.got("+447700900418", 2)
	o.got("tuan@vo.example", 2)
	o.got("+447700900417", 1)
	o.got("+447700900188", 1)
	o.texts("+447700900418", "A2", "2")
	o.answered(again.ID, 0, 1, 0)
	o.answered(id, 1, 2, 0)
	plain := sendDraft(t, o.c, draftOf(`{"kind":"person","person":1}`, "Nothing is asked."))
	asked := fmt.Sprintf("/api/messages/%d", plain)
	o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, asked+"/follow", `{"as":"unanswered"}`)
	o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, asked+"/follow", `{"as":"filled"}`)
	o.c.Problem(http.StatusUnprocessableEntity, http.MethodGet, asked+"/board", nil)
}

// Once enough people are coming, asking stops and the others are told so, once.
func TestEnoughPeopleAreComing(t *testing.T) {
	o := atDesk(t, "")
	asks := `{"choices":[{"words":"I am coming","means":"counts"},{"words":"I cannot"}],"needed":2,"filled":"We are enough now. Thank you!"}`
	id := sendDraft(t, o.c, question(guardians, asks))
	for _, address := range []string{"+447700900417", "+447700900418", "+447700900188", "tuan@vo.example"} {
		o.got(address, 1)
	}
	held, err := o.i.Store.Organisation(t.Context())
	require.NoError(t, err)
	held.Hold = time.Minute // which those who are told do not wait for
	require.NoError(t, o.i.Store.PutOrganisation(t.Context(), held))
	o.texts("+447700900417", "A1", "1")
	o.presses("+447700900188", "2")
	b := o.answered(id, 1, 1)
	assert.Nil(t, b.Filled)
	o.texts("+447700900418", "A2", "1")
	require.NoError(t, o.i.Sending.TellFilled(t.Context()))
	require.NoError(t, o.i.Sending.TellFilled(t.Context()))
	told := o.got("tuan@vo.example", 2)
	assert.Contains(t, told.Body, "We are enough now.")
	b = o.board(id)
	require.NotNil(t, b.Filled)
	for _, address := range []string{"+447700900417", "+447700900418", "+447700900188"} {
		items, err := o.i.Box.Received(t.Context(), []string{address})
		require.NoError(t, err)
		assert.Len(t, items, 1, address)
	}
	o.answers("tuan@vo.example", standin.Written{Text: "1"})
	assert.Equal(t, []int{3, 1}, o.board(id).Tally.Choices, "later answers are kept and shown")
}

// A question that is not finished cannot be sent, and one that is no question not kept.
func TestQuestionsThatCannotBeAsked(t *testing.T) {
	o := atDesk(t, "")
	var m struct{ ID, Revision int64 }
	o.c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	for says, asks := range map[string]string{
		"two answers say":    `{"choices":[{"words":"Yes"},{"words":" yes "}]}`,
		"not what an answer": `{"choices":[{"words":"Yes","means":"maybe"},{"words":"No"}]}`,
		"answers":            `{"choices":[{"words":"a"},{"words":"b"},{"words":"c"},{"words":"d"},{"words":"e"},{"words":"f"},{"words":"g"},{"words":"h"},{"words":"i"},{"words":"j"}]}`,
		"needed":             `{"choices":[{"words":"Yes"},{"words":"No"}],"needed":20000}`,
	} {
		said := o.c.Problem(http.StatusUnprocessableEntity, http.MethodPut, path,
			fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, question(guardians, asks)))
		assert.NotEmpty(t, said, says)
	}
	o.c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision,
		question(guardians, `{"choices":[{"words":"Yes"},{"words":" "}]}`)), &m)
	said := o.c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/send", fmt.Sprintf(`{"revision":%d}`, m.Revision))
	assert.Contains(t, said, "at least two answers")
	keys := strings.Replace(question(guardians, safe), `"question"`, `"voice":{"confirmKey":"2"},"question"`, 1)
	o.c.Problem(http.StatusUnprocessableEntity, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, keys))
}

// reports takes a report of a gateway about the first delivery of a message to an address.
func (o deskOffice) reports(id int64, address string, r delivery.Report) {
	o.Helper()
	list, err := o.i.Store.Deliveries(o.Context(), id)
	require.NoError(o.T, err)
	at := slices.IndexFunc(list, func(d store.DeliveryRecord) bool { return d.Address == address })
	require.GreaterOrEqual(o.T, at, 0)
	r.Via, r.DeliveryKey = delivery.ViaGateway, list[at].Key
	require.NoError(o.T, o.i.Desks.TakeReport(o.Context(), r))
}

// The last answer counts, by the time at which it was given and not at which it came.
func TestTheLastAnswerCounts(t *testing.T) {
	o := atDesk(t, "")
	id := sendDraft(t, o.c, question(`{"kind":"person","person":1}`, safe))
	o.got("+447700900417", 1)
	o.texts("+447700900417", "A1", "1")
	o.answered(id, 1, 0, 0)
	require.NoError(t, o.i.Box.Post(t.Context(), carrier.GatewayItem{
		Key: "A0", Channel: roster.Text, From: "+447700900417", To: "+447700900100", Text: "2", At: o.clock.Now().Add(-time.Minute),
	}))
	assert.Equal(t, []int{1, 0, 0}, o.board(id).Tally.Choices, "an older one changes nothing")
	o.reports(id, "+447700900417", delivery.Report{
		Key: "R1", State: delivery.Answered, Pressed: "3", OccurredAt: o.clock.Now().Add(time.Hour),
	})
	o.answered(id, 0, 0, 1)
	o.clock.Pass(time.Second)
	o.texts("+447700900417", "A2", "2")
	o.answered(id, 0, 1, 0)
	assert.Len(t, o.board(id).Latest, 4, "all are kept")
}

// Of what answers something else, only an answer and nothing else is one.
func TestAnAnswerAfterAnotherMessage(t *testing.T) {
	o := atDesk(t, "")
	id := sendDraft(t, o.c, question(`{"kind":"person","person":1}`, safe))
	o.got("+447700900417", 1)
	other := sendDraft(t, o.c, strings.Replace(draftOf(`{"kind":"person","person":1}`, "Row on Monday"), `"routine"`, `"timely"`, 1))
	o.got("+447700900417", 2)
	testkit.Eventually(t, "the other one is there", func() bool {
		f, err := o.i.Store.Figures(t.Context(), other)
		return err == nil && f.Reached == 1
	})
	o.texts("+447700900417", "A1", "1, gladly")
	assert.Equal(t, []int{0, 0, 0}, o.board(id).Tally.Choices)
	o.texts("+447700900417", "A2", "1")
	o.answered(id, 1, 0, 0)
}

// Whoever answered on the phone has answered, whatever becomes of the delivery, and is
// tried no further.
func TestAnAnswerWithoutADelivery(t *testing.T) {
	o := atDesk(t, "")
	require.NoError(t, o.i.Box.SetFault(t.Context(), "+447700900188", standin.NoAnswer))
	draft := strings.Replace(question(guardians, safe), `"question"`, `"moveOn":{"minutes":5,"answered":true},"question"`, 1)
	id := sendDraft(t, o.c, draft)
	answered := func() int {
		f, err := o.i.Store.Figures(t.Context(), id)
		require.NoError(t, err)
		return f.Answered
	}
	testkit.Eventually(t, "Lena was not reached", func() bool {
		f, err := o.i.Store.Figures(t.Context(), id)
		return err == nil && f.NotReached == 1 && f.Waiting == 0
	})
	path := fmt.Sprintf("/api/messages/%d/answers", id)
	for _, person := range []int{1, 3} {
		o.c.Want(http.StatusNoContent, http.MethodPost, path, fmt.Sprintf(`{"person":%d,"answer":1}`, person), nil)
	}
	assert.Equal(t, 2, answered())
	o.reports(id, "+447700900188", delivery.Report{Key: "late", State: delivery.Arrived, OccurredAt: o.clock.Now()})
	assert.Equal(t, 2, answered(), "she stays somebody who answered")
	o.texts("+447700900418", "A1", "Which bridge?")
	assert.Equal(t, 2, answered(), "words that are no answer answer no question")
	o.clock.Pass(6 * time.Minute)
	require.NoError(t, o.i.Sending.MoveOn(t.Context()))
	list, err := o.i.Store.Deliveries(t.Context(), id)
	require.NoError(t, err)
	for _, d := range list {
		assert.NotEqual(t, "rania@example.org", d.Address, "she answered, though no delivery did")
	}
}

// A key that one of two people pressed is nobody's answer yet.
func TestAKeyOfTwoPeople(t *testing.T) {
	o := atDesk(t, "")
	for _, name := range []string{"Piotr", "Lena"} {
		edits(o.c, name, func(sheet map[string]any) {
			sheet["addresses"] = []any{map[string]any{"channel": "voice", "value": "+447700900188"}}
			sheet["language"] = "en"
		})
	}
	id := sendDraft(t, o.c, question(`{"kind":"person","person":2},{"kind":"person","person":3}`, safe))
	o.got("+447700900188", 1)
	o.presses("+447700900188", "1")
	testkit.Eventually(t, "it is unclear", func() bool { return o.board(id).Unclear == 1 })
	var s standingOf
	o.c.Record(id, &s)
	assert.Zero(t, s.Message.Figures.Answered)
	assert.Equal(t, []int{0, 0, 0}, o.board(id).Tally.Choices)
}

// Outside the hours nothing is said to an answer that needs nobody.
func TestAnAnswerOutsideTheHours(t *testing.T) {
	o := atDesk(t, "")
	hours := strings.Replace(deskBody(1, "Club office", "1", ""), `"outside":""`, `"outside":"Nobody is here now."`, 1)
	hours = strings.Replace(hours, `"hours":[]`, `"hours":[{"day":1,"from":"08:00","to":"09:00"}]`, 1)
	o.c.Want(http.StatusOK, http.MethodPost, "/api/settings/desks", hours, nil)
	id := sendDraft(t, o.c, question(`{"kind":"person","person":1}`, safe))
	o.got("+447700900417", 1)
	o.texts("+447700900417", "A1", "1")
	o.answered(id, 1, 0, 0)
	o.texts("+447700900417", "A2", "2, please call")
	said := o.got("+447700900417", 2)
	assert.Contains(t, said.Body, "Nobody is here now.")
	var kinds []string
	for _, e := range o.only().Entries {
		kinds = append(kinds, e.Kind)
	}
	assert.Equal(t, []string{"in", "in", "out"}, kinds)
}

// What has not left when enough people are coming stays here, and whom it was for is told
// nothing: nobody asked them.
func TestAskingStopsOnceItIsFilled(t *testing.T) {
	o := atDesk(t, "")
	asks := `{"choices":[{"words":"Yes","means":"counts"},{"words":"No"}],"needed":1,"filled":"We are enough."}`
	draft := strings.Replace(question(guardians, asks), `"question"`, `"times":{"email":"2026-11-26T12:00:00Z"},"question"`, 1)
	id := sendDraft(t, o.c, draft)
	o.got("+447700900417", 1)
	o.got("+447700900418", 1)
	o.texts("+447700900418", "A1", "1")
	require.NoError(t, o.i.Sending.TellFilled(t.Context()))
	o.got("+447700900417", 2)
	f, err := o.i.Store.Figures(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, 1, f.Stopped)
	assert.Zero(t, f.Here)
	o.clock.Pass(4 * time.Hour)
	items, err := o.i.Box.Received(t.Context(), []string{"tuan@vo.example"})
	require.NoError(t, err)
	assert.Empty(t, items)
}

// Somebody who was asked is merged into another person: what comes from their number counts
// for them, and for nobody else.
func TestAnAnswerAfterAMerge(t *testing.T) {
	o := atDesk(t, "")
	id := sendDraft(t, o.c, question(`{"kind":"person","person":2}`, safe))
	o.got("+447700900418", 1)
	o.c.Want(http.StatusOK, http.MethodPost, "/api/people/merge", `{"keep":1,"others":[2]}`, nil)
	o.texts("+447700900418", "A1", "1")
	b := o.answered(id, 1, 0, 0)
	assert.Equal(t, "Piotr Zielony", b.Latest[0].Name)
	assert.Zero(t, b.Unclear)
}
