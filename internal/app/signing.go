package app

import (
	"context"
	"crypto/rand"
	"crypto/rsa"
	"crypto/x509"
	"encoding/base64"
	"fmt"
	"strings"

	"lucidletter/core/access"
)

// NewDKIMKey makes a key with which the account signs letters (RFC 6376; RSA of 2048
// bits as RFC 8301 section 3.2 wants), and gives the record to publish.
func (a *App) NewDKIMKey(ctx context.Context, u User, id int64, domain, selector string) (AccountSheet, error) {
	if err := may(u, access.EditSettings, access.Thing{}); err != nil {
		return AccountSheet{}, err
	}
	domain, selector = strings.ToLower(strings.TrimSpace(domain)), strings.ToLower(strings.TrimSpace(selector))
	switch {
	case !hostForm.MatchString(domain) || !strings.Contains(domain, "."):
		return AccountSheet{}, invalid("domain", "%q is no domain; write the one behind the @ of your addresses", domain)
	case !hostForm.MatchString(selector):
		return AccountSheet{}, invalid("selector", "%q is no name for a key; write a word such as letters1", selector)
	}
	acc, err := a.Store.Account(ctx, id)
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
	acc.DKIMDomain, acc.DKIMSelector = domain, selector
	if acc.DKIMKey, err = a.Sealer.Seal(der); err != nil {
		return AccountSheet{}, err
	}
	if _, err := a.putAccount(ctx, acc); err != nil {
		return AccountSheet{}, err
	}
	return a.sheetOf(&acc)
}

// dkimOf opens the key of an account, nil without one.
func (a *App) dkimOf(acc *Account) (*DKIMKey, error) {
	if len(acc.DKIMKey) == 0 {
		return nil, nil
	}
	der, err := a.Sealer.Open(acc.DKIMKey)
	return &DKIMKey{acc.DKIMDomain, acc.DKIMSelector, der}, err
}

// recordOf is the record that publishes a key (RFC 6376 section 3.6.1).
func recordOf(k *DKIMKey) (DNSRecord, error) {
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
