package app

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"time"

	"golang.org/x/sync/errgroup"

	"upperlantern/internal/standin"
)

// StandIns is how the shipped carriers run as a process of their own.
type StandIns struct {
	Data       string
	Mail       string // host:port
	Gateway    string // host:port
	ReturnMail string // host:port of the program's listener for returned mail
	Token      string
	Secret     string
	Log        *slog.Logger
	Ready      func() // told when they listen
}

// RunStandIns runs the shipped carriers until ctx ends.
func RunStandIns(ctx context.Context, s StandIns) (err error) {
	box, err := standin.Open(s.Data, standin.Options{
		ReturnMail: s.ReturnMail, Token: s.Token, Secret: s.Secret, Delay: lifelike, Now: time.Now, Log: s.Log,
	})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, box.Close()) }()
	mail, err := net.Listen("tcp", s.Mail)
	if err != nil {
		return fmt.Errorf("%s cannot be listened on: %w", s.Mail, err)
	}
	gateway, err := net.Listen("tcp", s.Gateway)
	if err != nil {
		return errors.Join(fmt.Errorf("%s cannot be listened on: %w", s.Gateway, err), mail.Close())
	}
	group, ctx := errgroup.WithContext(ctx)
	i := &Instance{group: group}
	i.serveSMTP(ctx, mail, box.MailServer())
	i.serveHTTP(ctx, gateway, box.Gateway())
	group.Go(func() error {
		box.Run(ctx)
		return nil
	})
	s.Ready()
	return group.Wait()
}
