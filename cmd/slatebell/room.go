package main

import (
	"crypto/tls"
	"fmt"

	"slatebell/server/room"
)

// roomAnywhere stands for --room without an address.
const roomAnywhere = "auto"

// onlyHere is where the room is opened for devices of this machine itself, where it is on no network.
const onlyHere = "127.0.0.2"

// roomFlags say how other devices come in.
type roomFlags struct{ address, cert, key string }

// tls returns the certificate that the room shows, or nil where there is none.
func (r *roomFlags) tls() (*tls.Config, error) {
	if r.cert == "" && r.key == "" {
		return nil, nil
	}
	if r.cert == "" || r.key == "" {
		return nil, wrong(exitUsage, "a certificate and its private key go together; expected both --tls-cert and --tls-key")
	}
	pair, err := tls.LoadX509KeyPair(r.cert, r.key)
	if err != nil {
		return nil, fmt.Errorf("reading the certificate %s with the key %s: %w", r.cert, r.key, err)
	}
	return &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12}, nil
}

// open opens the room where it is asked for, or was chosen to be open at the next start; it returns what is said of it.
func (r *roomFlags) open(people *room.Room, std stdio) (said string, err error) {
	switch address := r.address; address {
	case "":
		if address = people.Kept(); address == "" {
			return "", nil
		}
		if err := people.Open(address); err != nil { // the machine may be on another network today
			fmt.Fprintf(std.err, "slatebell: the room stays closed: %v\n", err)
			return "", nil
		}
	case roomAnywhere:
		address = ""
		if len(room.Addresses()) == 0 {
			fmt.Fprintf(std.err, "slatebell: this machine is on no network: the room is open on %s, for this machine itself\n", onlyHere)
			address = onlyHere
		}
		err = people.Open(address)
	default:
		err = people.Open(address)
	}
	if err != nil {
		return "", err
	}
	state, err := people.State()
	if err != nil {
		return "", err
	}
	said = fmt.Sprintf("The room is open at %s — let devices in at the desk’s page, under Room\n", state.URL)
	if !state.Secure {
		said += room.PlainWord + "\n"
	}
	return said, nil
}
