package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"
	"unicode/utf8"

	"github.com/spf13/cobra"

	"readyrail/internal/core/access"
	"readyrail/internal/demo"
	"readyrail/internal/host"
	"readyrail/internal/outbox"
	"readyrail/internal/plant"
	"readyrail/internal/server"
)

// settings are the flags that serve and demo share.
type settings struct {
	addr, data, cert, key string
	hosts, devices        []string
	folders, media        []string
	heads, backups        string
	notice                string
	noTLS                 bool
	logFormat, logLevel   string
	lengths               access.Lengths
}

func (o *settings) flags(c *cobra.Command, data string) {
	c.Flags().StringVar(&o.addr, "addr", "127.0.0.1:8470", "address to listen on")
	c.Flags().StringVar(&o.data, "data", data, "folder for everything that is kept")
	c.Flags().StringVar(&o.cert, "tls-cert", "", "certificate file; the server then speaks HTTPS")
	c.Flags().StringVar(&o.key, "tls-key", "", "key file of the certificate")
	c.Flags().BoolVar(&o.noTLS, "no-tls", false, "speak HTTP beyond this machine, too: where something before the server speaks TLS")
	c.Flags().StringArrayVar(&o.hosts, "host", nil, "a further name under which the server may be asked")
	c.Flags().StringArrayVar(&o.media, "medium", nil,
		"as --folder, of a medium that is unmounted as somebody has finished with it")
	c.Flags().StringArrayVar(&o.folders, "folder", nil, "a folder that logs may be written out to, as name=path: a removable medium, a share")
	c.Flags().StringVar(&o.heads, "heads", "",
		"a folder, best on another machine, that takes the signed heads of the audit trails")
	c.Flags().StringVar(&o.backups, "backups", "", "a folder, best on another disk, that takes backups (default backups in the data folder)")
	c.Flags().StringVar(&o.notice, "notice", "", "a file with what the site says to who signs in")
	c.Flags().StringVar(&o.logFormat, "log", "text", "how the log is written: text or json")
	c.Flags().StringVar(&o.logLevel, "log-level", "info", "what the log has: debug, info, warn or error")
	c.Flags().IntVar(&o.lengths.Password, "password-length", 0, "characters that a new password has at least (default 8)")
	c.Flags().IntVar(&o.lengths.PIN, "pin-length", 0, "digits that a new PIN has at least (default 4)")
	c.Flags().StringArrayVar(&o.devices, "device-host", nil,
		"where devices may be: a host, an address, a network, or one of loopback, private, any (default loopback and private)")
}

// metricsTokenVariable names the variable of the environment with the token that
// /api/metrics takes.
const metricsTokenVariable = "READYRAIL_METRICS_TOKEN"

// mostNotice bounds what a site says to who signs in, in characters.
const mostNotice = 1000

// noticeOf reads what a site says to who signs in (IEC 62443-3-3 SR 1.12).
func noticeOf(file string) (string, error) {
	if file == "" {
		return "", nil
	}
	text, err := os.ReadFile(file)
	if err != nil {
		return "", fmt.Errorf("--notice: %w", err)
	}
	notice := strings.TrimSpace(string(text))
	if n := utf8.RuneCountInString(notice); !utf8.ValidString(notice) || n == 0 || n > mostNotice {
		return "", fmt.Errorf("--notice: %s has to be a text of 1 to %d characters", file, mostNotice)
	}
	return notice, nil
}

// logger is the log that the flags ask for.
func (o *settings) logger(to io.Writer) (*slog.Logger, error) {
	var level slog.Level
	if err := level.UnmarshalText([]byte(o.logLevel)); err != nil {
		return nil, fmt.Errorf("--log-level is debug, info, warn or error, not %q", o.logLevel)
	}
	options := &slog.HandlerOptions{Level: level}
	switch o.logFormat {
	case "text":
		return slog.New(slog.NewTextHandler(to, options)), nil
	case "json":
		return slog.New(slog.NewJSONHandler(to, options)), nil
	}
	return nil, fmt.Errorf("--log is text or json, not %q", o.logFormat)
}

// ownFolder gives files a folder beside the data where none is given.
func (o *settings) ownFolder() error {
	if len(o.folders)+len(o.media) > 0 {
		return nil
	}
	path, err := filepath.Abs(filepath.Join(o.data, "files"))
	if err == nil {
		err = os.MkdirAll(path, 0o700)
	}
	o.folders = []string{"files=" + path}
	return err
}

func serveCommand() *cobra.Command {
	var o settings
	c := &cobra.Command{Use: "serve", Short: "Run the server", Args: cobra.NoArgs, RunE: func(*cobra.Command, []string) error {
		return run(o, func(context.Context, *host.Host) error { return nil }, nil)
	}}
	o.flags(c, "data")
	return c
}

func demoCommand() *cobra.Command {
	var o settings
	var at plant.Addresses
	var speed float64
	var own, faults, past bool
	var directory string
	c := &cobra.Command{Use: "demo", Short: "Run the server with the demo project and its plant", Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if err := o.ownFolder(); err != nil {
				return err
			}
			people := demo.People
			if directory != "" {
				people = append(slices.Clone(people), demo.DirectoryPeople...)
			}
			return run(o, func(ctx context.Context, h *host.Host) (err error) {
				if own {
					yard := plant.New(1, speed)
					if at, err = plant.Start(ctx, yard, at, nil); err != nil {
						return err
					}
					if faults {
						go yard.Play(ctx, plant.Script)
					}
				}
				if _, err := h.Project(demo.ID); err != nil {
					if err := demo.Fill(ctx, h, at, past); err != nil {
						return err
					}
				}
				if directory == "" {
					return nil
				}
				end, err := demo.Directory(ctx, h, access.DirectoryKind(directory))
				if err == nil {
					context.AfterFunc(ctx, end)
				}
				return err
			}, people)
		}}
	o.flags(c, "data/demo")
	plantFlags(c, &at)
	c.Flags().Float64Var(&speed, "speed", 30, "seconds of drying that pass in one second")
	c.Flags().BoolVar(&faults, "faults", true, "have faults come and go by a script, so that there are alarms to see")
	c.Flags().BoolVar(&past, "history", true, "begin with a made-up week of alarms and recorded values")
	c.Flags().StringVar(&directory, "directory", "", "have people of a stand-in company directory sign in, too: ldap or openid")
	c.Flags().BoolVar(&own, "plant", true, "run the plant too; off when one runs at these addresses already")
	return c
}

// certificate is what the server shows of itself: the one that is given, or beyond this
// machine one of its own; none where it speaks HTTP.
func (o *settings) certificate(log *slog.Logger, at *net.TCPAddr) (*server.Certificate, error) {
	switch {
	case o.cert != "":
		return server.GivenCertificate(o.cert, o.key)
	case at.IP.IsLoopback():
		return nil, nil
	case o.noTLS:
		log.Warn("listening beyond this machine without TLS: passwords can be read on the way unless what stands before speaks TLS")
		return nil, nil
	}
	return server.OwnCertificate(o.data, o.hosts, time.Now())
}

// shutdownTime is what requests under way get to end; sockets end with it.
const shutdownTime = 500 * time.Millisecond

// run serves until it is told to end.
func run(o settings, prepare func(context.Context, *host.Host) error, accounts []demo.Person) error {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if (o.cert == "") != (o.key == "") {
		return errors.New("--tls-cert and --tls-key go together")
	}
	folders, err := outbox.ParseAll(o.folders, o.media)
	if err != nil {
		return err
	}
	log, err := o.logger(os.Stderr)
	if err != nil {
		return err
	}
	notice, err := noticeOf(o.notice)
	if err != nil {
		return err
	}
	// The port first: a port in use leaves the data alone.
	l, err := net.Listen("tcp", o.addr)
	if err != nil {
		return fmt.Errorf("cannot listen on %s: %w", o.addr, errors.Unwrap(err))
	}
	defer l.Close()
	h, err := host.Open(o.data, log, host.Options{Folders: folders, Heads: o.heads, Lengths: o.lengths, Devices: o.devices,
		Backups: o.backups, Version: server.Version,
		VaultKey: os.Getenv(host.VaultKeyVariable), Link: linkProcess()})
	if err != nil {
		return err
	}
	defer h.Close()
	if err := prepare(ctx, h); err != nil {
		return err
	}
	cert, err := o.certificate(log, l.Addr().(*net.TCPAddr))
	if err != nil {
		return err
	}
	handler := server.New(h, server.Options{Hosts: o.hosts, Certificate: cert, Demo: accounts, Notice: notice,
		MetricsToken: os.Getenv(metricsTokenVariable)})
	scheme := "http"
	if cert != nil {
		l, scheme = handler.SecureListener(l), "https"
	}
	srv := &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		ErrorLog: slog.NewLogLogger(log.Handler(), slog.LevelDebug)}
	done := make(chan error, 1)
	go func() { done <- srv.Serve(l) }()
	fmt.Printf("Ready Rail on %s://%s\n", scheme, l.Addr())
	if cert != nil && cert.Info().Own {
		fmt.Printf("its own certificate until %s, SHA-256 %s\n", cert.Info().Until.Format(time.DateOnly), cert.Info().Fingerprint)
	}
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
	}
	// A second signal ends it at once.
	stop()
	end, cancel := context.WithTimeout(context.Background(), shutdownTime)
	defer cancel()
	srv.Shutdown(end)
	return srv.Close()
}
