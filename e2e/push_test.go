package e2e_test

import (
	"context"
	"encoding/json"
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/push"
	"upperlantern/internal/standin"
	"upperlantern/internal/testkit"
)

// subscribed stands for the part of a browser that no test can reach without a
// network: its push service. The subscription is one of the stand-in's.
const subscribed = `PushManager.prototype.subscribe = async ({ applicationServerKey }) => ({
	toJSON: () => ({ endpoint: %q, keys: { p256dh: %q, auth: applicationServerKey.byteLength === 65 ? %q : '' } }),
})`

// A device is connected by a personal link, is written to, shows what it gets
// and says so.
func TestAPushReachesADevice(t *testing.T) {
	const screen = "Rania Haddad’s browser"
	v := signedIn(t, testkit.Roster, 0)
	ctx := context.Background()
	o, err := v.instance.Store.Organisation(ctx)
	require.NoError(t, err)
	o.UpdatesWait = false
	require.NoError(t, v.instance.Store.PutOrganisation(ctx, o))
	// The stand-in takes what it is handed and never says that it was shown.
	require.NoError(t, v.instance.Box.SetFault(ctx, screen, standin.Full))

	d := standin.Device(screen)
	v.page.MustEvalOnNewDocument(fmt.Sprintf(subscribed, d.Endpoint, d.P256dh, d.Auth))
	require.NoError(t, proto.BrowserGrantPermissions{
		Permissions: []proto.BrowserPermissionType{proto.BrowserPermissionTypeNotifications}, Origin: v.instance.URL,
		BrowserContextID: v.page.Browser().BrowserContextID,
	}.Call(v.page.Browser()))
	registration := make(chan proto.ServiceWorkerRegistrationID, 8)
	go v.page.EachEvent(func(e *proto.ServiceWorkerWorkerRegistrationUpdated) {
		for _, r := range e.Registrations {
			registration <- r.RegistrationID
		}
	})()
	require.NoError(t, proto.ServiceWorkerEnable{}.Call(v.page))

	v.goes("/people")
	path := v.page.MustEval(
		`async () => (await (await fetch("/api/people/1/link", {method: "POST"})).json()).path`,
	).String()
	v.goes(path)
	v.clicks("button", "احصل|استلم")
	v.sees("[role=status]", "هذا الجهاز")
	v.clicks("button[type=submit]", ".")
	v.sees("[role=status]", "تم حفظ")

	v.goes("/write/new")
	v.picks(who, "Rania Haddad")
	v.type_(`input[aria-label="Subject"]`, "Low water")
	v.type_(email, "Bring the short oars.")
	v.clicks(`button[aria-label="Change the push"]`, "Change")
	v.sees("article", `goes to 1 person[\s\S]*waits in the list of notices`)
	v.type_(`input[aria-label="Page that it opens"]`, "www.example.org")
	v.sees(named("Reach"), "The push cannot open “www.example.org”")
	v.element(`input[aria-label="Page that it opens"]`).MustSelectAllText().MustInput("https://quillmere.example/rota")
	v.sees(
		"[aria-label=Preview]",
		`Push to Rania Haddad’s browser[\s\S]*Bring the short oars[\s\S]*opens https://quillmere.example/rota`,
	)
	v.clicks("button", "Send to 1 person")
	v.sees("[role=dialog]", "1 person gets this message: 1 by email and push")
	v.clicks("[role=dialog] button", "^Send")
	v.sees("h1", "Low water")

	// What the push service would now bring to the browser.
	var item standin.Item
	testkit.Eventually(t, "the push service has it", func() bool {
		got, err := v.instance.Box.Received(ctx, []string{screen})
		require.NoError(t, err)
		if len(got) > 0 {
			item = got[0]
		}
		return len(got) > 0
	})
	v.sees("main", "with the carrier")
	payload := push.Payload{
		Title: item.Subject, Body: item.Body, Key: item.Key, Report: v.instance.URL + "/carrier/pushes/" + item.Key,
		Quiet: true,
	}
	require.NoError(t, proto.ServiceWorkerDeliverPushMessage{
		Origin: v.instance.URL, RegistrationID: <-registration, Data: string(payload.Encode()),
	}.Call(v.page))
	v.until(`[...document.querySelectorAll('svg.mark')].some((m) => m.getAttribute('aria-label') === 'Push, arrived')`)
	shown := v.page.MustEval(`async () => {
		const r = await navigator.serviceWorker.ready
		const n = (await r.getNotifications())[0]
		return JSON.stringify({ title: n.title, body: n.body, silent: n.silent })
	}`).String()
	want, err := json.Marshal(map[string]any{"title": "Low water", "body": "Bring the short oars.", "silent": true})
	require.NoError(t, err)
	require.JSONEq(t, string(want), shown)

	// It leads to a page of its own, where it is answered.
	phone := v.another(item.Answer, 390, 844)
	phone.sees("main", `Low water[\s\S]*Bring the short oars`)
	phone.type_("textarea", "We have four of them")
	phone.clicks("button", "^Send$")
	phone.sees("[role=status]", "You wrote: We have four of them")
	v.until(`[...document.querySelectorAll('svg.mark')].some((m) => m.getAttribute('aria-label') === 'Push, answered')`)
}
