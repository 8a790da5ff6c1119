// Command slow attacks a program that runs with slow clients, and says how much memory it took at
// most and whether somebody else was answered meanwhile. The program is one of its own, with the
// sample workspace, on this machine:
//
//	lucidletter demo --data DIR --addr 127.0.0.1:7070 &
//	cd bench && go run ./slow -pid $! -url http://127.0.0.1:7070
package main

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"mime/multipart"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"strings"
	"sync"
	"time"
)

var (
	pid     = flag.Int("pid", 0, "the process whose memory is looked at")
	base    = flag.String("url", "http://127.0.0.1:7070", "where its screens are")
	clients = flag.Int("clients", 1000, "how many slow clients there are")
	people  = flag.Int("people", 44_000, "how many people are imported before the exports")
	hold    = flag.Duration("for", 20*time.Second, "for how long the slow clients are there")
)

func main() {
	flag.Parse()
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

// resident gives the memory of the program now, and the most that it had, in MB.
func resident() (now, most int) {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", *pid))
	if err != nil {
		return 0, 0
	}
	for line := range strings.Lines(string(text)) {
		kb := 0
		if n, _ := fmt.Sscanf(line, "VmRSS: %d kB", &kb); n == 1 {
			now = kb / 1024
		}
		if n, _ := fmt.Sscanf(line, "VmHWM: %d kB", &kb); n == 1 {
			most = kb / 1024
		}
	}
	return now, most
}

// forget has the kernel count the most anew, where it lets us.
func forget() { _ = os.WriteFile(fmt.Sprintf("/proc/%d/clear_refs", *pid), []byte("5"), 0o600) }

type session struct{ http.Client }

func signIn(email string) (*session, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	s := &session{http.Client{Jar: jar}}
	_, err = s.do(http.MethodPost, "/api/session", "application/json", strings.NewReader(fmt.Sprintf(`{"email":%q,"password":"fernhollow"}`, email)))
	return s, err
}

func (s *session) do(method, path, kind string, body io.Reader) ([]byte, error) {
	r, err := http.NewRequest(method, *base+path, body)
	if err != nil {
		return nil, err
	}
	if kind != "" {
		r.Header.Set("Content-Type", kind)
	}
	answer, err := s.Do(r)
	if err != nil {
		return nil, err
	}
	defer func() { _ = answer.Body.Close() }()
	text, err := io.ReadAll(answer.Body)
	if err == nil && answer.StatusCode > 299 {
		err = fmt.Errorf("%s %s: %d %.200s", method, path, answer.StatusCode, text)
	}
	return text, err
}

func form(name string, content []byte) (string, io.Reader) {
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	part, err := w.CreateFormFile("file", name)
	if err == nil {
		_, err = part.Write(content)
	}
	if err != nil || w.Close() != nil {
		panic("never: it is written to memory")
	}
	return w.FormDataContentType(), &b
}

// attack lets slow clients talk, and asks for a person's page meanwhile.
func attack(what string, lead *session, client func(n int)) {
	forget()
	before, _ := resident()
	var all sync.WaitGroup
	for n := range *clients {
		all.Go(func() { client(n) })
	}
	longest, asked := time.Duration(0), 0
	for until := time.Now().Add(*hold); time.Now().Before(until); asked++ {
		began := time.Now()
		if _, err := lead.do(http.MethodGet, "/api/people?limit=50", "", nil); err != nil {
			fmt.Println("  somebody else:", err)
		}
		longest = max(longest, time.Since(began))
		time.Sleep(100 * time.Millisecond)
	}
	_, most := resident()
	fmt.Printf("%-46s %4d MB before, %4d MB at most; somebody else waited %v at most (%d answers)\n", what, before, most, longest.Round(time.Millisecond), asked)
	all.Wait()
}

// talk opens a connection, says something, and reads a little each second.
func talk(say string, more func(net.Conn)) {
	c, err := net.Dial("tcp", strings.TrimPrefix(*base, "http://"))
	if err != nil {
		return
	}
	defer func() { _ = c.Close() }()
	_, _ = io.WriteString(c, say)
	for until := time.Now().Add(*hold); time.Now().Before(until); time.Sleep(time.Second) {
		more(c)
	}
}

func run() error {
	lead, err := signIn("greta@fernhollow.example")
	if err != nil {
		return err
	}
	kind, body := form("large.pdf", append([]byte("%PDF-1.4\n"), make([]byte, 14<<20)...))
	text, err := lead.do(http.MethodPost, "/api/documents?name=Large", kind, body)
	if err != nil {
		return err
	}
	var doc struct {
		ID int64 `json:"id"`
	}
	if err := json.Unmarshal(text, &doc); err != nil {
		return err
	}
	r, err := http.NewRequest(http.MethodGet, *base, nil)
	if err != nil {
		return err
	}
	cookies := []string{}
	for _, c := range lead.Jar.Cookies(r.URL) {
		cookies = append(cookies, c.Name+"="+c.Value)
	}
	slowly := func(c net.Conn) {
		_ = c.SetReadDeadline(time.Now().Add(time.Second))
		_, _ = c.Read(make([]byte, 100))
	}
	attack("slow readers of a document of 14 MB", lead, func(int) {
		talk(fmt.Sprintf("GET /api/documents/%d/file HTTP/1.1\r\nHost: x\r\nCookie: %s\r\n\r\n", doc.ID, strings.Join(cookies, "; ")), slowly)
	})
	for _, path := range []string{"/a/none", "/opt-out/none", "/api/session"} {
		attack("slow bodies to "+path, lead, func(int) {
			talk("POST "+path+" HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 1000\r\n\r\n", func(c net.Conn) { _, _ = c.Write([]byte("x")) })
		})
	}
	attack("headers that never end", lead, func(int) {
		talk("GET / HTTP/1.1\r\nHost: x\r\n", func(c net.Conn) { _, _ = c.Write([]byte("X-A: b\r\n")) })
	})
	return exports(lead)
}

// exports imports people and takes them out six times at once.
func exports(lead *session) error {
	var csv bytes.Buffer
	csv.WriteString("First,Last,Email,City\n")
	for i := range *people {
		fmt.Fprintf(&csv, "Ada,Quill %d,slow%d@quill.example,York\n", i, i)
	}
	kind, body := form("people.csv", csv.Bytes())
	if _, err := lead.do(http.MethodPost, "/api/imports?kind=lead", kind, body); err != nil {
		return err
	}
	for {
		text, err := lead.do(http.MethodGet, "/api/people/count", "", nil)
		if err != nil {
			return err
		}
		var out struct {
			Total int `json:"count"`
		}
		if err := json.Unmarshal(text, &out); err == nil && out.Total >= *people {
			break
		}
		time.Sleep(500 * time.Millisecond)
	}
	*clients, *hold = 6, 10*time.Second
	attack(fmt.Sprintf("six exports of %d people", *people), lead, func(int) {
		if _, err := lead.do(http.MethodPost, "/api/people/export", "application/json", strings.NewReader(`{"as":"csv"}`)); err != nil {
			fmt.Println("  export:", err)
		}
	})
	return nil
}
