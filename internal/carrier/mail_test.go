package carrier_test

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"mime"
	"net"
	"net/http"
	"net/http/httptest"
	"net/mail"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/emersion/go-msgauth/dkim"
	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/incoming"
)

// script is a mail server that answers as it is told, by command.
type script struct {
	answers map[string]string // the first answer to a command that is not the usual one
	hellos  int               // how many EHLOs of a session are answered

	mu     sync.Mutex
	mails  []string
	opened int
}

var usual = map[string]string{
	"greeting": "220 mail.example", "EHLO": "250-mail.example\r\n250 DSN", "MAIL": "250 2.1.0 ok", "RCPT": "250 2.1.5 ok",
	"DATA": "354 go on",
	".":    "250 2.0.0 taken", "NOOP": "250 2.0.0 ok", "RSET": "250 2.0.0 ok", "QUIT": "221 2.0.0 bye",
}

// hangUp is an answer that breaks the connection.
const hangUp = "hang up"

func (s *script) serve(t *testing.T) *carrier.Mail {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = l.Close() })
	go func() {
		for {
			conn, err := l.Accept()
			if err != nil {
				return
			}
			s.mu.Lock()
			s.opened++
			s.mu.Unlock()
			go s.speak(conn)
		}
	}()
	m, err := carrier.NewMail("smtp://"+l.Addr().String(), "returns.example", "secret")
	require.NoError(t, err)
	return m
}

func (s *script) speak(conn net.Conn) {
	defer conn.Close() //nolint:errcheck // the other end has gone
	r := bufio.NewReader(conn)
	say := func(command string) {
		answer := usual[command]
		if own, ok := s.answers[command]; ok {
			answer = own
		}
		if answer == hangUp {
			_ = conn.Close()
			return
		}
		_, _ = fmt.Fprint(conn, answer+"\r\n")
	}
	say("greeting")
	hellos := 0
	for {
		line, err := r.ReadString('\n')
		if err != nil {
			return
		}
		command := strings.ToUpper(strings.Fields(line + " x")[0])
		if command == "EHLO" {
			if hellos++; s.hellos > 0 && hellos > s.hellos {
				_, _ = fmt.Fprint(conn, "503 5.5.1 duplicate EHLO\r\n")
				continue
			}
		}
		say(command)
		if command != "DATA" || s.answers["DATA"] != "" {
			continue
		}
		var content strings.Builder
		for {
			line, err := r.ReadString('\n')
			if err != nil {
				return
			}
			if line == ".\r\n" {
				break
			}
			content.WriteString(strings.TrimPrefix(line, ".")) // RFC 5321 §4.5.2
		}
		s.mu.Lock()
		s.mails = append(s.mails, content.String())
		s.mu.Unlock()
		say(".")
	}
}

var email = carrier.Item{
	Key: "KEY1", To: "rania@example.org", From: "office@quillmere.example", FromName: "Quillmere", Subject: "Outing",
	Body: "Hello", Language: "en",
}

// Only what a server answers at RCPT, or at DATA about the mailbox, is about the
// address; before that it is the server's own trouble.
func TestMailTellsAnswersApart(t *testing.T) {
	refusal := func(permanent, address, gone bool) func(error) bool {
		return func(err error) bool {
			var r *carrier.Refusal
			return errors.As(err, &r) && r.Permanent == permanent && r.Address == address && r.Gone == gone
		}
	}
	trouble := func(err error) bool {
		var t *carrier.Trouble
		return errors.As(err, &t)
	}
	unreachable := func(err error) bool {
		var u *carrier.Uncertain
		return err != nil && !trouble(err) && !refusal(false, false, false)(err) && !errors.As(err, &u)
	}
	uncertain := func(err error) bool {
		var u *carrier.Uncertain
		return errors.As(err, &u)
	}
	for _, c := range []struct {
		name, command, answer string
		want                  func(error) bool
	}{
		{"gone at RCPT", "RCPT", hangUp, unreachable},
		{"gone after all was said", ".", hangUp, uncertain},
		{"taken", "NOOP", "250 ok", func(err error) bool { return err == nil }},
		{"at the greeting", "greeting", "554 5.3.2 no mail here", trouble},
		{"busy at the greeting", "greeting", "421 4.3.2 later", trouble},
		{"at EHLO", "EHLO", "550 5.7.1 who are you", trouble},
		{"at MAIL FROM", "MAIL", "550 5.7.1 sender refused", trouble},
		{"at MAIL FROM, for now", "MAIL", "452 4.3.1 disk full", trouble},
		{"sign in first", "RCPT", "530 5.7.0 sign in first", trouble},
		{"closing at RCPT", "RCPT", "421 4.3.2 closing", trouble},
		{"no such mailbox", "RCPT", "550 5.1.1 no such mailbox", refusal(true, true, true)},
		{"mailbox full", "RCPT", "552 5.2.2 mailbox full", refusal(true, true, false)},
		{"without a code", "RCPT", "550 no", refusal(true, true, false)},
		{"greylisted", "RCPT", "451 4.7.1 later", refusal(false, false, false)},
		{"DATA about the mailbox", ".", "550 5.2.1 mailbox disabled", refusal(true, true, false)},
		{"DATA about the address", ".", "550 5.1.1 no such mailbox", refusal(true, true, true)},
		{"DATA about the content", ".", "554 5.6.0 cannot be read", refusal(true, false, false)},
		{"DATA about policy", ".", "554 5.7.1 looks like spam", refusal(true, false, false)},
		{"DATA, for now", ".", "451 4.3.0 later", refusal(false, false, false)},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := &script{answers: map[string]string{c.command: c.answer}}
			err := s.serve(t).Hand(context.Background(), email)
			assert.True(t, c.want(err), "%T %v", err, err)
		})
	}
}

// A kept connection says EHLO once: some servers refuse a second one.
func TestAKeptConnectionSaysHelloOnce(t *testing.T) {
	s := &script{hellos: 1}
	m := s.serve(t)
	for range 10 {
		require.NoError(t, m.Hand(context.Background(), email))
	}
	assert.Len(t, s.mails, 10)
	assert.Equal(t, 1, s.opened)
}

func TestMailsNameNoLibraryAndBeginTheirSubjectOnItsLine(t *testing.T) {
	for _, subject := range []string{
		"Outing", "Łódź: wyjazd przeniesiony na środę o 18:30, prosimy o potwierdzenie obecności",
		strings.Repeat("a long subject ", 12), "训练改到星期三下午六点半，请带上保暖的衣服，如果不能来请告诉我们",
		strings.Repeat("x", 90), "=?utf-8?B?eA==?=", "a  b\tc\r\nBcc: x@example.org",
	} {
		s := &script{}
		item := email
		item.Subject = subject
		require.NoError(t, s.serve(t).Hand(context.Background(), item))
		header, _, _ := strings.Cut(s.mails[0], "\r\n\r\n")
		assert.NotContains(t, header, "X-Mailer")
		assert.NotContains(t, header, "User-Agent")
		assert.NotContains(t, header, "KEY1", "nobody learns the key of the delivery from what they forward")
		for line := range strings.SplitSeq(header, "\r\n") {
			if rest, is := strings.CutPrefix(line, "Subject:"); is {
				assert.NotEmpty(t, strings.TrimSpace(rest))
			}
			assert.Less(t, len(line), 100)
		}
		parsed, err := mail.ReadMessage(strings.NewReader(s.mails[0]))
		require.NoError(t, err)
		read, err := new(mime.WordDecoder).DecodeHeader(parsed.Header.Get("Subject"))
		require.NoError(t, err)
		assert.Equal(t, strings.Join(strings.Fields(subject), " "), read)
		assert.Empty(t, parsed.Header.Get("Bcc"))
	}
}

func TestAnySubjectIsReadBack(t *testing.T) {
	s := &script{}
	m := s.serve(t)
	rapid.Check(t, func(t *rapid.T) {
		item := email
		item.Subject = rapid.StringOfN(rapid.RuneFrom([]rune("a ęż=?_训🚣é-")), 0, 120, -1).Draw(t, "subject")
		if err := m.Hand(context.Background(), item); err != nil {
			t.Fatal(err)
		}
		parsed, err := mail.ReadMessage(strings.NewReader(s.mails[len(s.mails)-1]))
		if err != nil {
			t.Fatal(err)
		}
		read, err := new(mime.WordDecoder).DecodeHeader(parsed.Header.Get("Subject"))
		if want := strings.Join(strings.Fields(item.Subject), " "); err != nil || read != want {
			t.Fatalf("%q was read as %q: %v", want, read, err)
		}
	})
}

// What comes back is taken at signed addresses only.
func TestReturnsAreTakenAtSignedAddresses(t *testing.T) {
	taken := make(chan delivery.Report, 1)
	unknown := errors.New("unknown")
	server := carrier.Inbox{Reports: func(_ context.Context, r delivery.Report) error {
		taken <- r
		return nil
	}, Unknown: unknown, Secret: "secret", Now: time.Now}.Server()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go server.Serve(l)   //nolint:errcheck // it ends with the test
	defer server.Close() //nolint:errcheck // the test is over
	give := func(to string) error {
		c, err := smtp.Dial(l.Addr().String())
		require.NoError(t, err)
		defer c.Close() //nolint:errcheck // it was quit, or failed already
		return c.SendMail("", []string{to}, strings.NewReader(string(notification("failed", "5.1.1", "smtp; 550 gone"))))
	}
	signed := carrier.ReturnAddress("KEY1", "returns.example", "secret")
	require.NoError(t, give(strings.ToLower(signed)), "some servers change the case")
	report := <-taken
	assert.Equal(t, delivery.ViaMail, report.Via)
	assert.Equal(t, "KEY1", report.DeliveryKey)
	for _, forged := range []string{
		"d+KEY1@returns.example", "d+KEY1.AAAAAAAAAAAAAAAA@returns.example",
		carrier.ReturnAddress("KEY1", "returns.example", "guess"),
		strings.Replace(signed, "KEY1", "KEY2", 1), "office@returns.example", "d+@returns.example",
	} {
		require.Error(t, give(forged), forged)
	}
	assert.Empty(t, taken)
}

func TestEmailsAreSigned(t *testing.T) {
	text, err := carrier.NewSigningKey()
	require.NoError(t, err)
	key, public, err := carrier.ReadSigningKey(text)
	require.NoError(t, err)
	server := &script{}
	m := server.serve(t).Signing("quillmere.example", "lantern", key)
	require.NoError(t, m.Hand(context.Background(), carrier.Item{
		Key: "K1", To: "bo@example.org", From: "office@quillmere.example", FromName: "Ørsk", Subject: "Łódź",
		Body: "Words.\n.a line with a dot\n", HTML: "<p>Words.</p>",
	}))
	server.mu.Lock()
	defer server.mu.Unlock()
	require.Len(t, server.mails, 1)
	check := func(mail string) error {
		found, err := dkim.VerifyWithOptions(strings.NewReader(mail), &dkim.VerifyOptions{
			LookupTXT: func(name string) ([]string, error) {
				assert.Equal(t, "lantern._domainkey.quillmere.example", name)
				return []string{"v=DKIM1; k=rsa; p=" + public}, nil
			},
		})
		require.NoError(t, err)
		require.Len(t, found, 1)
		return found[0].Err
	}
	require.NoError(t, check(server.mails[0]))
	require.Error(t, check(strings.Replace(server.mails[0], "Words.", "Other words.", 1)))
	_, _, err = carrier.ReadSigningKey("no key")
	require.Error(t, err)
}

// What comes from outside is read or refused, never more than its limits.
func FuzzReadMail(f *testing.F) {
	f.Add([]byte("From: Ana <ana@example.org>\r\nSubject: Re\r\nMessage-ID: <1@x>\r\n\r\nYes\r\n> Will you come?"))
	f.Add([]byte("From: ana@example.org\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\n\r\nHello\r\n--b--"))
	f.Fuzz(func(t *testing.T, content []byte) {
		item, err := carrier.ReadMail(content, false, time.Now())
		if err != nil {
			return
		}
		if item.From == "" || item.Key == "" || len([]rune(item.Text)) > incoming.LongestText || len(item.Files) > incoming.MostFiles {
			t.Fatalf("%+v", item)
		}
	})
}

func FuzzIncoming(f *testing.F) {
	f.Add([]byte(`{"key":"K","channel":"text","from":"+447700900417","text":"Yes","media":[{"name":"a.png","content":"AAAA"}]}`))
	f.Fuzz(func(t *testing.T, body []byte) {
		now := time.Now()
		handler := carrier.Incoming(func() []string { return []string{"secret"} }, func(_ context.Context, i incoming.Item) error {
			if i.Key == "" || i.At.After(now) || len([]rune(i.Text)) > incoming.LongestText {
				t.Fatalf("%+v", i)
			}
			return nil
		}, func() time.Time { return now })
		req := httptest.NewRequest(http.MethodPost, "/carrier/incoming", bytes.NewReader(body))
		carrier.Sign(req.Header, "secret", "id", now, body)
		w := httptest.NewRecorder()
		handler.ServeHTTP(w, req)
		if w.Code != http.StatusNoContent && w.Code != http.StatusUnprocessableEntity {
			t.Fatalf("%d for %q", w.Code, body)
		}
	})
}
