module github.com/go-playground/validator/v10

go 1.26
