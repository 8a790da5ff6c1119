package main

import (
	"net"
	"testing"
)

func TestReachable(t *testing.T) {
	for in, want := range map[string]string{"127.0.0.1:7070": "127.0.0.1:7070", "0.0.0.0:80": "localhost:80", "[::]:7070": "localhost:7070", "[::1]:7070": "[::1]:7070"} {
		addr, err := net.ResolveTCPAddr("tcp", in)
		if err != nil {
			t.Fatal(err)
		}
		if got := reachable(addr); got != want {
			t.Errorf("%s: %s, want %s", in, got, want)
		}
	}
}
