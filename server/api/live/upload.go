package live

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/codegen"
	"slatebell/codegen/bridge"
	"slatebell/core/bench"
	plan "slatebell/core/ship/bridge"
	"slatebell/core/ship/firmware"
	"slatebell/server/api/answer"
	"slatebell/server/compile"
)

// UploadPath is where the bridge is put onto a board.
const UploadPath = Path + "/upload"

// Loader says whether this machine can put the bridge onto a bench's board.
type Loader struct {
	Can   bool   `json:"can"`
	Why   string `json:"why,omitempty" doc:"where it cannot: why"`
	Bauds []int  `json:"bauds,omitempty" nullable:"false" doc:"speeds of loaders of such boards, the usual one first"`
}

// bauds are the speeds of loaders: 57,600 is that of older small boards (common practice).
var bauds = map[string][]int{"ATmega328P": {115200, 57600}, "ATmega2560": {115200}}

func loader(r *LoaderRequest) (*Loader, error) {
	if err := r.Bench.Validate(); err != nil {
		return nil, answer.Invalid(err)
	}
	im := firmware.Bare(&r.Bench)
	out := &Loader{Bauds: bauds[im.Host.Chip]}
	if _, _, ok := bridge.Build(im); !ok {
		out.Why = "a bridge for " + im.Host.Chip + " is put there by your editor, or by the tool that you copy files to the board with"
		return out, nil
	}
	if _, err := compile.FindUploader(); err != nil {
		out.Why = err.Error()
		return out, nil
	}
	out.Can = true
	return out, nil
}

// LoaderRequest asks whether a bench's bridge can be put onto its board from here.
type LoaderRequest struct {
	Bench bench.Bench `json:"bench"`
}

// UploadRequest asks for the bridge to be built, and put onto a board.
type UploadRequest struct {
	Port  string      `json:"port" maxLength:"400" doc:"as the list of ports names it"`
	Baud  int         `json:"baud" enum:"115200,57600" doc:"of the board's loader"`
	Bench bench.Bench `json:"bench"`
}

// Uploaded is what came of it.
type Uploaded struct {
	Done bool   `json:"done"`
	Said string `json:"said" doc:"by the tools"`
	Size int    `json:"size" doc:"bytes of flash that it takes"`
}

// upload builds the bridge and sends it to a board's loader. A connection ends before: a port serves one at a time.
func (d *Desk) upload(ctx context.Context, r *UploadRequest) (*Uploaded, error) {
	if err := r.Bench.Validate(); err != nil {
		return nil, answer.Invalid(err)
	}
	p, err := plan.New(&r.Bench)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	im := firmware.Bare(&r.Bench)
	args, to, ok := bridge.Build(im)
	if !ok {
		return nil, huma.Error422UnprocessableEntity("an " + im.Host.Chip + " is not what avrdude puts programs onto; expected an ATmega328P or an ATmega2560")
	}
	u, err := compile.FindUploader()
	if err != nil {
		return nil, huma.Error501NotImplemented(err.Error())
	}
	written, err := codegen.Bridge(p, im)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	var files []compile.File
	for _, f := range written {
		if strings.Contains(f.Name, "/") { // of the sketch
			continue
		}
		files = append(files, compile.File{Name: f.Name, Text: f.Text})
	}
	if !d.turn.TryLock() {
		return nil, huma.Error503ServiceUnavailable("another upload is under way")
	}
	defer d.turn.Unlock()
	d.end()
	made, err := u.Upload(ctx, files, args, bridge.ELF, compile.Board{Part: to.Part, Programmer: to.Programmer, Port: r.Port, Baud: r.Baud})
	if err != nil {
		return nil, answer.Refused(err)
	}
	return &Uploaded{made.Built, made.Said, made.Flash}, nil
}

// registerUpload registers what puts the bridge onto a board.
func registerUpload(api huma.API, d *Desk, post func(id, path, summary string) huma.Operation) {
	huma.Register(api, post("get-table-loader", "/api/table/loader", "Whether the bridge of a bench can be put onto its board from here"), answer.Answered(loader))
	op := post("upload-bridge", UploadPath, "Build the bridge of a bench, and put it onto a board")
	op.Errors = []int{422, http.StatusNotImplemented, http.StatusServiceUnavailable}
	huma.Register(api, op, func(ctx context.Context, in *struct{ Body UploadRequest }) (*answer.Body[Uploaded], error) {
		out, err := d.upload(ctx, &in.Body)
		if err != nil {
			return nil, err
		}
		return &answer.Body[Uploaded]{Body: *out}, nil
	})
}
