package team

import (
	"context"
	"crypto/rand"
	"crypto/rsa"
	"crypto/x509"
	"encoding/base64"
	"fmt"
	"strings"

	"lucidletter/core/access"
	"lucidletter/internal/domain"
)

// NewDKIMKey makes a key with which the account signs letters (RFC 6376; RSA of 2048
// bits as RFC 8301 section 3.2 wants), and gives the record to publish.
func (a *Service) NewDKIMKey(ctx context.Context, u domain.User, id int64, host, selector string) (AccountSheet, error) {
	if err := domain.May(u, access.EditSettings, access.Thing{}); err != nil {
		return AccountSheet{}, err
	}
	host, selector = strings.ToLower(strings.TrimSpace(host)), strings.ToLower(strings.TrimSpace(selector))
	switch {
	case !hostForm.MatchString(host) || !strings.Contains(host, "."):
		return AccountSheet{}, domain.Invalid("domain", "%q is no domain; write the one behind the @ of your addresses", host)
	case !hostForm.MatchString(selector):
		return AccountSheet{}, domain.Invalid("selector", "%q is no name for a key; write a word such as letters1", selector)
	}
	acc, err := a.store.Account(ctx, id)
	if err != nil {
		return AccountSheet{}, err
	}
	key, err := rsa.GenerateKey(rand.Reader, 2048)
	if err != nil {
		return AccountSheet{}, err
	}
	der, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return AccountSheet{}, err
	}
	acc.DKIMDomain, acc.DKIMSelector = host, selector
	if acc.DKIMKey, err = a.sealer.Seal(der); err != nil {
		return AccountSheet{}, err
	}
	if _, err := a.putAccount(ctx, acc); err != nil {
		return AccountSheet{}, err
	}
	return a.sheetOf(&acc)
}

// DKIMOf opens the key of an account, nil without one.
func (a *Service) DKIMOf(acc *domain.Account) (*domain.DKIMKey, error) {
	if len(acc.DKIMKey) == 0 {
		return nil, nil
	}
	der, err := a.sealer.Open(acc.DKIMKey)
	return &domain.DKIMKey{Domain: acc.DKIMDomain, Selector: acc.DKIMSelector, Key: der}, err
}

// recordOf is the record that publishes a key (RFC 6376 section 3.6.1).
func recordOf(k *domain.DKIMKey) (DNSRecord, error) {
	key, err := x509.ParsePKCS8PrivateKey(k.Key)
	if err != nil {
		return DNSRecord{}, err
	}
	signer, ok := key.(*rsa.PrivateKey)
	if !ok {
		return DNSRecord{}, fmt.Errorf("the DKIM key is no RSA key")
	}
	der, err := x509.MarshalPKIXPublicKey(&signer.PublicKey)
	return DNSRecord{k.Selector + "._domainkey." + k.Domain, "v=DKIM1; k=rsa; p=" + base64.StdEncoding.EncodeToString(der)}, err
}
