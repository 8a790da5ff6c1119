package files

import (
	"cmp"
	"fmt"
	"io"

	"github.com/emersion/go-mbox"

	"lucidletter/internal/app/inbox"
)

// Mbox writes emails one after another, oldest first (RFC 4155, appendix A), with LF
// line ends. Lines that begin with From are marked by >; known departure: one that
// begins with >From already is not told from them.
func Mbox(out io.Writer, each func(func(*inbox.MailItem) error) error) error {
	w := mbox.NewWriter(out)
	err := each(func(m *inbox.MailItem) error {
		one, err := w.CreateMessage(cmp.Or(m.From, "MAILER-DAEMON"), m.At)
		if err == nil {
			_, err = one.Write(m.Bytes)
		}
		return err
	})
	if err := cmp.Or(err, w.Close()); err != nil {
		return fmt.Errorf("write mbox: %w", err)
	}
	return nil
}
