package files

import (
	"bytes"
	"cmp"
	"fmt"

	"github.com/emersion/go-mbox"

	"lucidletter/internal/app/inbox"
)

// Mbox writes emails one after another, oldest first (RFC 4155, appendix A), with LF
// line ends. Lines that begin with From are marked by >; known departure: one that
// begins with >From already is not told from them.
func Mbox(list []inbox.MailItem) ([]byte, error) {
	var out bytes.Buffer
	w := mbox.NewWriter(&out)
	for _, m := range list {
		one, err := w.CreateMessage(cmp.Or(m.From, "MAILER-DAEMON"), m.At)
		if err == nil {
			_, err = one.Write(m.Bytes)
		}
		if err != nil {
			return nil, fmt.Errorf("write mbox: %w", err)
		}
	}
	if err := w.Close(); err != nil {
		return nil, fmt.Errorf("write mbox: %w", err)
	}
	return out.Bytes(), nil
}
