package team

import (
	"cmp"
	"context"
	"fmt"
	"net"
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// AccountInput is what an administrator sets on a sending account. A secret of nil
// stays as it is.
type AccountInput struct {
	Name          string
	Addresses     []string
	UserID        *int64
	Audience      access.Audience
	Server        domain.Login
	ServerSecret  *string
	Connections   int
	PerMinute     int
	PerDay        int
	ReturnTo      string
	Mailbox       domain.Login
	MailboxSecret *string
}

// AccountSheet is an account as its screen shows it, without secrets.
type AccountSheet struct {
	domain.Account
	HasSecret        bool
	HasMailboxSecret bool
	Record           DNSRecord // to publish for DKIM; zero without a key
}

// DNSRecord is a TXT record.
type DNSRecord struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// Limits of accounts.
const (
	maxConnections = 10
	maxPerMinute   = 6000
	maxPerDay      = 1_000_000
)

var hostForm = regexp.MustCompile(`^[A-Za-z0-9]([A-Za-z0-9.-]*[A-Za-z0-9])?$`)

// Accounts lists the sending accounts.
func (a *Service) Accounts(ctx context.Context, u domain.User) ([]AccountSheet, error) {
	if err := domain.May(u, access.EditSettings, access.Thing{}); err != nil {
		return nil, err
	}
	list, err := a.store.Accounts(ctx)
	out := make([]AccountSheet, 0, len(list))
	for i := range list {
		sheet, err := a.sheetOf(&list[i])
		if err != nil {
			return nil, err
		}
		out = append(out, sheet)
	}
	return out, err
}

func (a *Service) sheetOf(acc *domain.Account) (AccountSheet, error) {
	out := AccountSheet{Account: *acc, HasSecret: len(acc.Server.Sealed) > 0, HasMailboxSecret: len(acc.Mailbox.Sealed) > 0}
	key, err := a.DKIMOf(acc)
	if err != nil || key == nil {
		return out, nil //nolint:nilerr // without the key file the record cannot be shown; sending says so
	}
	out.Record, err = recordOf(key)
	return out, err
}

// PutAccount adds an account, or with an id changes one.
func (a *Service) PutAccount(ctx context.Context, u domain.User, id int64, in AccountInput) (AccountSheet, error) {
	if err := domain.May(u, access.EditSettings, access.Thing{}); err != nil {
		return AccountSheet{}, err
	}
	acc := domain.Account{CreatedAt: a.now()}
	if id != 0 {
		var err error
		if acc, err = a.store.Account(ctx, id); err != nil {
			return AccountSheet{}, err
		}
	}
	if err := a.intoAccount(ctx, &acc, in); err != nil {
		return AccountSheet{}, err
	}
	id, err := a.putAccount(ctx, acc)
	if err != nil {
		return AccountSheet{}, err
	}
	if acc, err = a.store.Account(ctx, id); err != nil {
		return AccountSheet{}, err
	}
	a.wake()
	return a.sheetOf(&acc)
}

func (a *Service) intoAccount(ctx context.Context, acc *domain.Account, in AccountInput) error {
	acc.Name = strings.Join(strings.Fields(in.Name), " ")
	if acc.Name == "" {
		return domain.Invalid("name", "is missing; say which mail server it is")
	}
	acc.Addresses = nil
	for _, address := range in.Addresses {
		address = strings.ToLower(strings.TrimSpace(address))
		if strings.HasPrefix(address, "@") && hostForm.MatchString(address[1:]) || field.CheckEmail(address) == nil {
			acc.Addresses = append(acc.Addresses, address)
		} else if address != "" {
			return domain.Invalid("addresses", "%q is neither an address nor a domain such as @fernhollow.example", address)
		}
	}
	if in.UserID != nil {
		if _, err := a.store.User(ctx, *in.UserID); err != nil {
			return domain.Invalid("userId", "isn’t a user here")
		}
	}
	acc.UserID, acc.Audience = in.UserID, in.Audience
	switch {
	case in.Connections < 1 || in.Connections > maxConnections:
		return domain.Invalid("connections", "must be 1 to %d", maxConnections)
	case in.PerMinute < 0 || in.PerMinute > maxPerMinute:
		return domain.Invalid("perMinute", "must be 0 (no limit) to %d", maxPerMinute)
	case in.PerDay < 0 || in.PerDay > maxPerDay:
		return domain.Invalid("perDay", "must be 0 (no limit) to %d", maxPerDay)
	}
	acc.Connections, acc.PerMinute, acc.PerDay = in.Connections, in.PerMinute, in.PerDay
	if acc.ReturnTo = strings.TrimSpace(in.ReturnTo); acc.ReturnTo != "" {
		if err := field.CheckEmail(acc.ReturnTo); err != nil {
			return domain.Invalid("returnTo", "%v", err)
		}
	}
	if in.Server.Host == "" {
		return domain.Invalid("server", "is missing; write the name of the mail server")
	}
	if err := a.intoLogin("server", &acc.Server, in.Server, in.ServerSecret); err != nil {
		return err
	}
	if in.Mailbox.Host == "" {
		acc.Mailbox = domain.Login{}
		return nil
	}
	return a.intoLogin("mailbox", &acc.Mailbox, in.Mailbox, in.MailboxSecret)
}

func (a *Service) intoLogin(name string, l *domain.Login, in domain.Login, secret *string) error {
	sealed := l.Sealed
	if in.Host != l.Host || in.User != l.User {
		sealed = nil // a password goes to the server it was typed for, and to no other
	}
	in.Host, in.User = strings.TrimSpace(in.Host), strings.TrimSpace(in.User)
	switch {
	case !hostForm.MatchString(in.Host) && net.ParseIP(in.Host) == nil:
		return domain.Invalid(name, "%q is no name of a server; write it like mail.fernhollow.example", in.Host)
	case in.Port < 1 || in.Port > 65535:
		return domain.Invalid(name, "needs a port: usually 587 with STARTTLS, 465 with TLS, 993 for a mailbox")
	case !slices.Contains([]string{"starttls", "tls", "none"}, in.Security):
		return domain.Invalid(name, "needs a kind of protection: starttls, tls or none")
	case !slices.Contains([]string{"none", "plain", "login", "xoauth2"}, in.Method):
		return domain.Invalid(name, "needs a way to sign in: none, plain, login or xoauth2")
	case in.Method != "none" && in.User == "":
		return domain.Invalid(name, "needs a user to sign in as")
	case in.Method != "none" && in.Security == "none" && !isHere(in.Host):
		return domain.Invalid(name, "would get the password unprotected; choose STARTTLS or TLS")
	}
	in.Sealed = sealed
	if secret != nil {
		var err error
		if in.Sealed, err = a.sealer.Seal([]byte(*secret)); err != nil {
			return err
		}
	}
	if in.Method != "none" && len(in.Sealed) == 0 {
		return domain.Invalid(name, "needs a password or token to sign in with")
	}
	*l = in
	return nil
}

func isHere(host string) bool {
	ip := net.ParseIP(host)
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

// DeleteAccount takes an account away; letters that wait go another way.
func (a *Service) DeleteAccount(ctx context.Context, u domain.User, id int64) error {
	if err := domain.May(u, access.EditSettings, access.Thing{}); err != nil {
		return err
	}
	acc, err := a.store.Account(ctx, id)
	if err != nil {
		return err
	}
	acc.DeletedAt = new(a.now())
	_, err = a.putAccount(ctx, acc)
	return err
}

// PutBackAccount brings back an account that was deleted, with its password and key.
func (a *Service) PutBackAccount(ctx context.Context, u domain.User, id int64) error {
	if err := domain.May(u, access.EditSettings, access.Thing{}); err != nil {
		return err
	}
	err := a.store.PutBackAccount(ctx, id)
	a.forgetAccounts()
	return err
}

// OpenAccount gives an account with its secrets, for whoever talks to its servers.
func (a *Service) OpenAccount(acc domain.Account) (domain.Account, error) {
	for _, l := range []*domain.Login{&acc.Server, &acc.Mailbox} {
		if len(l.Sealed) == 0 {
			continue
		}
		secret, err := a.sealer.Open(l.Sealed)
		if err != nil {
			return acc, err
		}
		l.Secret = string(secret)
	}
	return acc, nil
}

// AllAccounts gives the accounts, read once: nobody else changes them while this
// program runs on the data folder.
func (a *Service) AllAccounts(ctx context.Context) ([]domain.Account, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.accounts != nil {
		return a.accounts, nil
	}
	list, err := a.store.Accounts(ctx)
	if err == nil {
		a.accounts = append([]domain.Account{}, list...)
	}
	return a.accounts, err
}

func (a *Service) putAccount(ctx context.Context, acc domain.Account) (int64, error) {
	id, err := a.store.PutAccount(ctx, acc)
	a.forgetAccounts()
	return id, err
}

// forgetAccounts makes the next call read the accounts again.
func (a *Service) forgetAccounts() {
	a.mu.Lock()
	a.accounts = nil
	a.mu.Unlock()
}

// AccountFor gives the account that a user's letters from an address go through: the
// user's own, a shared one for the address, one for all, then the server that the
// program was started with, whose id is 0.
func (a *Service) AccountFor(ctx context.Context, userID int64, from string) (domain.Account, error) {
	list, err := a.AllAccounts(ctx)
	if err != nil {
		return domain.Account{}, err
	}
	best, rank := domain.Account{Connections: cmp.Or(a.connections, builtInConnections)}, 0
	for _, acc := range list {
		own, named := acc.UserID != nil && *acc.UserID == userID, acc.Covers(from)
		at := 0
		switch {
		case own && (named || len(acc.Addresses) == 0):
			at = 3
		case acc.UserID == nil && named:
			at = 2
		case acc.UserID == nil && len(acc.Addresses) == 0:
			at = 1
		}
		if at > rank {
			best, rank = acc, at
		}
	}
	return best, nil
}

// builtInConnections is how many connections go to the server that the program was
// started with.
const builtInConnections = 4

// sharedAddresses gives the addresses of shared accounts that a user is named for and
// does not have already.
func (a *Service) sharedAddresses(ctx context.Context, u *domain.User, had []domain.FromAddress) ([]domain.FromAddress, error) {
	list, err := a.AllAccounts(ctx)
	var out []domain.FromAddress
	for _, acc := range list {
		if acc.UserID != nil || !acc.Audience.Holds(u.As()) {
			continue
		}
		for _, email := range acc.Addresses {
			there := slices.ContainsFunc(had, func(f domain.FromAddress) bool { return field.EmailKey(f.Email) == field.EmailKey(email) })
			if !there && !strings.HasPrefix(email, "@") {
				out = append(out, domain.FromAddress{UserID: u.ID, Name: u.Name(), Email: email})
			}
		}
	}
	return out, err
}

// AccountStop says that a user may not send through the account of an address, or "".
func (a *Service) AccountStop(ctx context.Context, u *domain.User, from string) (string, error) {
	acc, err := a.AccountFor(ctx, u.ID, from)
	if err != nil || acc.ID == 0 || acc.UserID != nil || acc.Audience.Who == access.Inherit || acc.Audience.Holds(u.As()) {
		return "", err
	}
	return fmt.Sprintf("Letters from %s go through “%s”, which is not for you to use; choose another address.", from, acc.Name), nil
}

// TestStep is one step of trying an account out, and what to do where it failed.
type TestStep struct {
	Name   string `json:"name"`
	OK     bool   `json:"ok"`
	Said   string `json:"said"`
	Remedy string `json:"remedy"`
}

// Tester tries servers out.
type Tester interface {
	TestServer(ctx context.Context, l domain.Login) []TestStep
	TestMailbox(ctx context.Context, l domain.Login) []TestStep
}

// TestAccount signs in at the servers of an account, and tells how far it came. No
// letter is sent.
func (a *Service) TestAccount(ctx context.Context, u domain.User, id int64) ([]TestStep, error) {
	if err := domain.May(u, access.EditSettings, access.Thing{}); err != nil {
		return nil, err
	}
	acc, err := a.store.Account(ctx, id)
	if err != nil {
		return nil, err
	}
	if acc, err = a.OpenAccount(acc); err != nil {
		return []TestStep{{"Open the password", false, err.Error(), "Type the password again and save it."}}, nil
	}
	steps := a.tester.TestServer(ctx, acc.Server)
	if acc.Mailbox.Host != "" {
		steps = append(steps, a.tester.TestMailbox(ctx, acc.Mailbox)...)
	}
	return steps, nil
}

// WithMailbox gives the accounts whose mailbox is looked into, as they are stored.
func (a *Service) WithMailbox(ctx context.Context) ([]domain.Account, error) {
	list, err := a.store.Accounts(ctx)
	return slices.DeleteFunc(list, func(acc domain.Account) bool { return acc.Mailbox.Host == "" }), err
}

// MailboxRead notes up to where the mailbox of an account was read, and why not further.
func (a *Service) MailboxRead(ctx context.Context, id int64, at, said string) error {
	return a.store.MailboxRead(ctx, id, at, said)
}
