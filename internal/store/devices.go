package store

import (
	"context"
	"time"

	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Device is where push reaches a device (W3C Push API, “PushSubscription”).
type Device struct {
	Name     string // the value of its addresses on the roster
	Endpoint string // the URL at its push service
	P256dh   string // its public key, base64url
	Auth     string // its authentication secret, base64url
}

// Device returns where push reaches a device, or ErrNotFound while it is not connected.
func (s *Store) Device(ctx context.Context, name string) (Device, error) {
	row, err := s.read().Device(ctx, name)
	return Device{row.Name, row.Endpoint, row.P256dh, row.Auth}, found(err)
}

// Connect keeps where push reaches devices. One that was given up is tried again.
func (s *Store) Connect(ctx context.Context, devices []Device, now time.Time) error {
	return s.change(ctx, func(q *query.Queries) error {
		for _, d := range devices {
			err := q.PutDevice(ctx, query.PutDeviceParams{
				Name: d.Name, Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth, ConnectedAt: millis(now),
			})
			if err != nil {
				return err
			}
			if err := q.ReviveDevice(ctx, d.Name); err != nil {
				return err
			}
		}
		return nil
	})
}

// SweepDevices forgets where push reaches devices that were connected before an
// instant and are neither on the roster nor in a correction that waits.
func (s *Store) SweepDevices(ctx context.Context, before time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		_, err := q.DropUnusedDevices(ctx, millis(before))
		return err
	})
}

// connected marks the addresses of devices that are connected.
func connected(ctx context.Context, q *query.Queries, people []roster.Person) error {
	names, err := q.ConnectedDevices(ctx)
	if err != nil {
		return err
	}
	known := make(map[string]bool, len(names))
	for _, n := range names {
		known[n] = true
	}
	for i := range people {
		for j := range people[i].Addresses {
			a := &people[i].Addresses[j]
			a.Connected = a.Channel == roster.Push && known[a.Value]
		}
	}
	return nil
}
