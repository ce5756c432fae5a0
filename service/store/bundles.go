package store

import (
	"context"
	"fmt"
	"io"
	"time"

	"github.com/klauspost/compress/zstd"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// ChunkBytes is the size of a chunk before it is compressed.
const ChunkBytes = 1 << 20

// Bundle is a packed version, addressed by its digest.
type Bundle struct {
	Digest    string `gorm:"primaryKey"`
	Size      int64  // in bytes, unpacked
	CreatedAt time.Time
}

// Chunk is a piece of a bundle.
type Chunk struct {
	Digest   string `gorm:"primaryKey"`
	Position int    `gorm:"primaryKey"`
	Data     []byte
}

func saveBundle(tx *gorm.DB, p Publication) error {
	made := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&Bundle{Digest: p.Digest, Size: p.Size})
	if made.Error != nil || made.RowsAffected == 0 {
		return made.Error // another version has the same contents
	}
	encoder, err := zstd.NewWriter(nil)
	if err != nil {
		return err
	}
	defer encoder.Close()
	return p.Chunks(func(position int, data []byte) error {
		return tx.Create(&Chunk{Digest: p.Digest, Position: position, Data: encoder.EncodeAll(data, nil)}).Error
	})
}

// OpenBundle returns a bundle's bytes. They are fetched chunk by chunk.
func (s *Store) OpenBundle(ctx context.Context, digest string) (io.Reader, int64, error) {
	db, err := s.db(ctx)
	if err != nil {
		return nil, 0, err
	}
	var bundle Bundle
	if err := db.Where("digest = ?", digest).Take(&bundle).Error; err != nil {
		return nil, 0, missing(err, "the bundle "+digest)
	}
	decoder, err := zstd.NewReader(nil, zstd.WithDecoderMaxMemory(2*ChunkBytes))
	if err != nil {
		return nil, 0, err
	}
	return &chunkReader{db: db, decoder: decoder, digest: digest, left: bundle.Size}, bundle.Size, nil
}

type chunkReader struct {
	db       *gorm.DB
	decoder  *zstd.Decoder
	digest   string
	position int
	left     int64 // bytes of the bundle that are not read yet
	data     []byte
}

func (r *chunkReader) Read(p []byte) (int, error) {
	if r.left == 0 {
		r.decoder.Close()
		return 0, io.EOF
	}
	if len(r.data) == 0 {
		var chunk Chunk
		err := r.db.Where("digest = ? AND position = ?", r.digest, r.position).Take(&chunk).Error
		if err != nil {
			return 0, missing(err, fmt.Sprintf("chunk %d of the bundle %s", r.position, r.digest))
		}
		if r.data, err = r.decoder.DecodeAll(chunk.Data, r.data[:0]); err != nil {
			return 0, fmt.Errorf("chunk %d of the bundle %s is damaged: %w", r.position, r.digest, err)
		}
		r.position++
	}
	n := copy(p, r.data)
	r.data = r.data[n:]
	r.left -= int64(n)
	return n, nil
}
