package mail

import (
	"bytes"
	"crypto"
	"crypto/x509"
	"errors"
	"fmt"

	"github.com/emersion/go-msgauth/dkim"

	"lucidletter/internal/domain"
)

// signed are the fields that a signature covers, also where they are missing, so that
// nobody adds them (RFC 6376 section 5.4); those of RFC 8058 section 4 among them.
var signed = []string{
	"From", "To", "Cc", "Subject", "Date", "Message-ID", "Reply-To", "In-Reply-To", "References", "MIME-Version", "Content-Type", "Content-Transfer-Encoding",
	"List-Unsubscribe", "List-Unsubscribe-Post",
}

// sign puts a DKIM signature (RFC 6376, rsa-sha256, relaxed/relaxed) before a letter.
func sign(letter []byte, k *domain.DKIMKey) ([]byte, error) {
	key, err := x509.ParsePKCS8PrivateKey(k.Key)
	if err != nil {
		return nil, fmt.Errorf("read the DKIM key: %w", err)
	}
	signer, ok := key.(crypto.Signer)
	if !ok {
		return nil, errors.New("the DKIM key cannot sign")
	}
	var out bytes.Buffer
	err = dkim.Sign(&out, bytes.NewReader(letter), &dkim.SignOptions{
		Domain: k.Domain, Selector: k.Selector, Signer: signer, Hash: crypto.SHA256, HeaderKeys: signed,
		HeaderCanonicalization: dkim.CanonicalizationRelaxed, BodyCanonicalization: dkim.CanonicalizationRelaxed,
	})
	if err != nil {
		return nil, fmt.Errorf("sign the letter: %w", err)
	}
	return out.Bytes(), nil
}
