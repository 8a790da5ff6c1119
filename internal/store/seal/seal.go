// Package seal keeps passwords so that a copy of the database does not tell them.
package seal

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
)

// KeyFile is the name of the key in the data folder. Without it what was sealed
// cannot be opened: keep a copy apart from that of the database.
const KeyFile = "secret.key"

// Sealer seals with AES-256 in Galois/Counter Mode (NIST SP 800-38D).
type Sealer struct{ aead cipher.AEAD }

// Open reads the key in a data folder, or makes one that only its owner reads.
func Open(folder string) (*Sealer, error) {
	path := filepath.Join(folder, KeyFile)
	key, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		key = make([]byte, 32)
		_, _ = rand.Read(key) // never fails
		err = writeOnce(path, key)
	}
	if err != nil {
		return nil, fmt.Errorf("read the key for passwords: %w", err)
	}
	if len(key) != 32 {
		return nil, fmt.Errorf("the key %s is damaged: it has %d bytes, not 32; put back the copy of it", path, len(key))
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, err
	}
	aead, err := cipher.NewGCM(block)
	return &Sealer{aead}, err
}

// writeOnce writes a file that is not there, whole or not at all.
func writeOnce(path string, content []byte) error {
	f, err := os.OpenFile(path+".new", os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	_, err = f.Write(content)
	if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
		return err
	}
	return os.Rename(path+".new", path)
}

// Seal makes a secret unreadable without the key.
func (s *Sealer) Seal(secret []byte) ([]byte, error) {
	nonce := make([]byte, s.aead.NonceSize())
	_, _ = rand.Read(nonce) // never fails
	return s.aead.Seal(nonce, nonce, secret, nil), nil
}

// Open gives what was sealed.
func (s *Sealer) Open(sealed []byte) ([]byte, error) {
	n := s.aead.NonceSize()
	if len(sealed) < n {
		return nil, errors.New("what was sealed is cut off")
	}
	out, err := s.aead.Open(nil, sealed[:n], sealed[n:], nil)
	if err != nil {
		return nil, fmt.Errorf("the key does not open what was sealed; put back %s or type the secret again", KeyFile)
	}
	return out, nil
}
