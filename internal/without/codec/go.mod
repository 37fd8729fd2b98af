module github.com/ugorji/go/codec

go 1.26
