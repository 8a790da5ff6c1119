package mail

import (
	"bytes"
	"regexp"

	"github.com/emersion/go-message"
)

// readEntity reads a letter; one whose header is broken without the lines that break it.
func readEntity(raw []byte) *message.Entity {
	options := &message.ReadOptions{MaxHeaderBytes: maxReport}
	e, err := message.ReadWithOptions(bytes.NewReader(raw), options)
	if e != nil && (err == nil || unknown(err)) {
		return e
	}
	if e, err = message.ReadWithOptions(bytes.NewReader(mendHeader(raw)), options); e != nil && (err == nil || unknown(err)) {
		return e
	}
	return nil
}

var headerLine = regexp.MustCompile(`^[!-9;-~]+[ \t]*:`)

// mendHeader takes the lines out of a header that are no fields. Where words begin
// without an empty line, one is put in.
func mendHeader(raw []byte) []byte {
	var out bytes.Buffer
	fields := false
	for rest := raw; len(rest) > 0; {
		line, after, _ := bytes.Cut(rest, []byte("\n"))
		bare := bytes.TrimRight(line, "\r")
		next, _, _ := bytes.Cut(after, []byte("\n"))
		switch {
		case len(bare) == 0 && fields, out.Len() > maxReport/2:
			out.WriteString("\r\n")
			out.Write(after)
			return out.Bytes()
		case headerLine.Match(bare), fields && (bare[0] == ' ' || bare[0] == '\t'):
			fields = true
			out.Write(bare)
			out.WriteString("\r\n")
		case bytes.HasPrefix(bare, []byte("From ")), headerLine.Match(next), len(bytes.TrimSpace(bare)) == 0:
			// a line of an archive, or one that is broken
		default: // words begin
			out.WriteString("\r\n")
			out.Write(rest)
			return out.Bytes()
		}
		rest = after
	}
	out.WriteString("\r\n")
	return out.Bytes()
}
