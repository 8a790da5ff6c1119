package files

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"image"
	_ "image/gif" // the decoder
	"image/jpeg"
	"image/png"
	"runtime/debug"
	"sync"

	_ "golang.org/x/image/webp" // the decoder

	"lucidletter/internal/domain"
)

// Limits of pictures.
const (
	MaxPicture      = 12 << 20   // bytes of an upload
	MaxWidth        = 1200       // pixels of what is kept
	maxPhotoPixels  = 36_000_000 // of a JPEG: at most 12 bytes each while it is read
	maxPixels       = 16_000_000 // of others: at most 8 bytes each; of all frames of a moving one
	maxFrames       = 500
	maxMovingBytes  = 4 << 20
	pictureQuality  = 86
	pictureNotOne   = "is no picture of the kinds PNG, JPEG, GIF or WebP; save it as one of them"
	pictureTooLarge = "is larger than %d MiB; make it smaller"
)

// decoding is held by who reads the pixels of a picture.
var decoding sync.Mutex

// returnPixels is from how many pixels on the memory is given back at once.
const returnPixels = 4_000_000

// ReadPicture makes an uploaded picture ready for letters: at most 1200 pixels
// wide or high, turned the way it was taken, without what a camera writes beside
// it (place, owner). A moving GIF stays as it is. SVG is refused, since it can hold
// scripts. The result is PNG when the picture may be transparent, else JPEG, or GIF.
func ReadPicture(raw []byte) (kind string, out []byte, err error) {
	bad := func(why string, args ...any) error {
		return &domain.InvalidError{Fields: []domain.FieldError{{Where: "file", Why: fmt.Sprintf(why, args...)}}}
	}
	if len(raw) > MaxPicture {
		return "", nil, bad(pictureTooLarge, MaxPicture>>20)
	}
	config, format, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil {
		return "", nil, bad(pictureNotOne)
	}
	most := maxPixels
	if format == "jpeg" {
		most = maxPhotoPixels
	}
	if config.Width*config.Height > most || config.Width == 0 || config.Height == 0 {
		return "", nil, bad("has %d × %d pixels; make it smaller", config.Width, config.Height)
	}
	if format == "gif" {
		frames, pixels, ok := gifFrames(raw)
		switch {
		case !ok:
			return "", nil, bad(pictureNotOne)
		case pixels > maxPixels || frames > maxFrames:
			return "", nil, bad("moves, with %d frames of %d pixels in all; make it shorter or smaller", frames, pixels)
		case frames > 1 && len(raw) > maxMovingBytes:
			return "", nil, bad("moves and is larger than %d MiB; make it smaller", maxMovingBytes>>20)
		case frames > 1:
			return "image/gif", raw, nil
		}
	}
	// One at a time: so many pixels of one picture are held, whoever sends how many.
	decoding.Lock()
	defer decoding.Unlock()
	if config.Width*config.Height > returnPixels {
		defer debug.FreeOSMemory()
	}
	img, _, err := image.Decode(bytes.NewReader(raw))
	if err != nil {
		return "", nil, bad(pictureNotOne)
	}
	small := within(img, MaxWidth)
	var buf bytes.Buffer
	if format == "jpeg" {
		err = jpeg.Encode(&buf, upright(small, orientationOf(raw)), &jpeg.Options{Quality: pictureQuality})
		return "image/jpeg", buf.Bytes(), err
	}
	err = png.Encode(&buf, small)
	return "image/png", buf.Bytes(), err
}

// gifFrames counts the frames of a GIF and their pixels without reading any: by the
// blocks of the file (GIF89a specification, sections 17 to 27; from memory). It is false
// for a file whose blocks do not end as they should.
func gifFrames(raw []byte) (frames, pixels int, ok bool) {
	table := func(flags byte) int { // the colours that follow
		if flags&0x80 == 0 {
			return 0
		}
		return 3 << (1 + flags&7)
	}
	if len(raw) < 13 {
		return 0, 0, false
	}
	at := 13 + table(raw[10])
	skip := func() bool { // data in blocks of a length, up to an empty one
		for at < len(raw) {
			n := int(raw[at])
			at += 1 + n
			if n == 0 {
				return at <= len(raw)
			}
		}
		return false
	}
	for at < len(raw) {
		switch raw[at] {
		case 0x3B: // the trailer
			return frames, pixels, frames > 0
		case 0x21: // an extension
			at += 2
		case 0x2C: // a frame
			if at+10 > len(raw) {
				return frames, pixels, false
			}
			frames++
			pixels += int(binary.LittleEndian.Uint16(raw[at+5:])) * int(binary.LittleEndian.Uint16(raw[at+7:]))
			at += 10 + table(raw[at+9]) + 1 // and the size of the codes
		default:
			return frames, pixels, false
		}
		if !skip() {
			return frames, pixels, false
		}
	}
	return frames, pixels, false
}
