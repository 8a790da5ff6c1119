package team

import (
	"context"
	"errors"
	"slices"

	"golang.org/x/crypto/bcrypt"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// PasswordCost is the bcrypt cost of new passwords.
const PasswordCost = bcrypt.DefaultCost

// minPassword is in bytes; bcrypt reads at most 72.
const minPassword, maxPassword = 10, 72

// HashPassword checks a new password and hashes it.
func HashPassword(password string, cost int) (string, error) {
	if len(password) < minPassword || len(password) > maxPassword {
		return "", domain.Invalid("password", "must have %d to %d bytes", minPassword, maxPassword)
	}
	hash, err := bcrypt.GenerateFromPassword([]byte(password), cost)
	return string(hash), err
}

// AddUser makes a user who can sign in.
func (a *Service) AddUser(ctx context.Context, u domain.User, password string) (int64, error) {
	if err := field.CheckEmail(u.Email); err != nil {
		return 0, domain.Invalid("email", "%v", err)
	}
	switch u.Role {
	case access.Representative, access.TeamLead, access.Administrator:
	default:
		return 0, domain.Invalid("role", "must be representative, lead or administrator")
	}
	if u.FirstName == "" && u.LastName == "" {
		return 0, domain.Invalid("name", "is missing; letters carry it in From")
	}
	hash, err := HashPassword(password, PasswordCost)
	if err != nil {
		return 0, err
	}
	if _, err := a.store.UserByEmail(ctx, field.EmailKey(u.Email)); err == nil {
		return 0, domain.Invalid("email", "a user with this address exists")
	} else if !errors.Is(err, domain.ErrNotFound) {
		return 0, err
	}
	u.PasswordHash = hash
	return a.store.AddUser(ctx, u)
}

// User gives a user, or ErrNotFound.
func (a *Service) User(ctx context.Context, id int64) (domain.User, error) {
	return a.store.User(ctx, id)
}

// Colleagues gives everybody and the teams, by name.
func (a *Service) Colleagues(ctx context.Context) ([]domain.User, []domain.Team, error) {
	users, err := a.store.Users(ctx)
	if err != nil {
		return nil, nil, err
	}
	teams, err := a.store.Teams(ctx)
	return users, teams, err
}

// UserOf gives who writes from an address; of a shared one the first who may.
func (a *Service) UserOf(ctx context.Context, address string) (domain.User, error) {
	key := field.EmailKey(address)
	u, err := a.store.UserOfAddress(ctx, key)
	if !errors.Is(err, domain.ErrNotFound) {
		return u, err
	}
	accounts, err := a.AllAccounts(ctx)
	if err != nil {
		return u, err
	}
	for _, acc := range accounts {
		if slices.Contains(acc.Addresses, key) && len(acc.Audience.Users) > 0 {
			return a.store.User(ctx, acc.Audience.Users[0])
		}
	}
	return u, domain.ErrNotFound
}
