package store

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"

	"golang.org/x/crypto/argon2"
	"gorm.io/gorm"
)

// Account is someone who may change things.
type Account struct {
	ID           uint64
	Name         string
	PasswordHash string
	Operator     bool
	CreatedAt    time.Time
}

// Session is a browser that is logged in.
type Session struct {
	SecretHash []byte `gorm:"primaryKey"`
	AccountID  uint64
	Account    Account
	CreatedAt  time.Time
	ExpiresAt  time.Time
}

// Token lets a program act for an account.
type Token struct {
	ID         uint64
	AccountID  uint64
	Account    Account
	Label      string
	SecretHash []byte
	CreatedAt  time.Time
	LastUsedAt *time.Time
}

const (
	// SessionLife is how long a browser stays logged in.
	SessionLife = 12 * time.Hour
	tokenPrefix = "ironcast_"
)

// Argon2id parameters as RFC 9106 recommends them where memory is scarce:
// 64 MiB, 3 passes. The number of lanes is that of the smallest machine.
const (
	hashMemory = 64 << 10 // KiB
	hashPasses = 3
	hashLanes  = 2
)

// hashing bounds how many passwords are hashed at once, and so the memory for
// it.
var hashing = make(chan struct{}, 2)

func derive(password string, salt []byte) []byte {
	hashing <- struct{}{}
	defer func() { <-hashing }()
	return argon2.IDKey([]byte(password), salt, hashPasses, hashMemory, hashLanes, 32)
}

// hashPassword returns a password's hash in the PHC string format.
func hashPassword(password string) string {
	salt := make([]byte, 16)
	rand.Read(salt)
	encode := base64.RawStdEncoding.EncodeToString
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, hashMemory, hashPasses, hashLanes, encode(salt), encode(derive(password, salt)))
}

func passwordMatches(password, hash string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 {
		return false
	}
	salt, err := base64.RawStdEncoding.DecodeString(parts[4])
	if err != nil {
		return false
	}
	want, err := base64.RawStdEncoding.DecodeString(parts[5])
	return err == nil && subtle.ConstantTimeCompare(derive(password, salt), want) == 1
}

// CreateOperator makes the operator's account, unless there is any account
// already. It tells whether it did.
func (s *Store) CreateOperator(ctx context.Context, name, password string) (bool, error) {
	db, err := s.db(ctx)
	if err != nil {
		return false, err
	}
	var count int64
	if err := db.Model(&Account{}).Count(&count).Error; err != nil || count > 0 {
		return false, available(err)
	}
	err = db.Create(&Account{Name: name, PasswordHash: hashPassword(password), Operator: true}).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return false, nil // another instance was faster
	}
	return err == nil, available(err)
}

// nobody takes as long to refuse as an account with another password, so that
// nobody learns from it which accounts there are.
var nobody = fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, hashMemory, hashPasses, hashLanes,
	base64.RawStdEncoding.EncodeToString(make([]byte, 16)), base64.RawStdEncoding.EncodeToString(make([]byte, 32)))

// Authenticate returns the account with that name and password, or ErrNotFound.
func (s *Store) Authenticate(ctx context.Context, name, password string) (Account, error) {
	db, err := s.db(ctx)
	if err != nil {
		return Account{}, err
	}
	account := Account{PasswordHash: nobody}
	err = db.Where("name = ?", name).Take(&account).Error
	if err != nil && !errors.Is(err, gorm.ErrRecordNotFound) {
		return Account{}, available(err)
	}
	if !passwordMatches(password, account.PasswordHash) || err != nil {
		return Account{}, fmt.Errorf("an account with that name and password %w", ErrNotFound)
	}
	return account, nil
}

// CreateSession logs a browser in and returns the session's secret.
func (s *Store) CreateSession(ctx context.Context, account Account) (secret string, err error) {
	db, err := s.db(ctx)
	if err != nil {
		return "", err
	}
	now := db.NowFunc()
	if err := db.Where("expires_at < ?", now).Delete(&Session{}).Error; err != nil {
		return "", available(err)
	}
	secret = rand.Text()
	session := Session{SecretHash: hashed(secret), AccountID: account.ID, ExpiresAt: now.Add(SessionLife)}
	return secret, available(db.Omit("Account").Create(&session).Error)
}

// SessionAccount returns the account that a browser is logged in with.
func (s *Store) SessionAccount(ctx context.Context, secret string) (Account, error) {
	db, err := s.db(ctx)
	if err != nil {
		return Account{}, err
	}
	var session Session
	err = db.Joins("Account").Where("secret_hash = ? AND expires_at > ?", hashed(secret), db.NowFunc()).Take(&session).Error
	return session.Account, missing(err, "the session")
}

// DeleteSession logs a browser out.
func (s *Store) DeleteSession(ctx context.Context, secret string) error {
	db, err := s.db(ctx)
	if err != nil {
		return err
	}
	return available(db.Where("secret_hash = ?", hashed(secret)).Delete(&Session{}).Error)
}

// CreateToken makes a token and returns its secret, which is not kept.
func (s *Store) CreateToken(ctx context.Context, account Account, label string) (Token, string, error) {
	db, err := s.db(ctx)
	if err != nil {
		return Token{}, "", err
	}
	secret := tokenPrefix + rand.Text()
	token := Token{AccountID: account.ID, Label: label, SecretHash: hashed(secret)}
	err = db.Omit("Account").Create(&token).Error
	return token, secret, available(err)
}

// TokenAccount returns the account that a token acts for. When it was last used
// is noted to the hour, so that most requests write nothing.
func (s *Store) TokenAccount(ctx context.Context, secret string) (Account, error) {
	db, err := s.db(ctx)
	if err != nil {
		return Account{}, err
	}
	var token Token
	if err := db.Joins("Account").Where("secret_hash = ?", hashed(secret)).Take(&token).Error; err != nil {
		return Account{}, missing(err, "the token")
	}
	if now := db.NowFunc(); token.LastUsedAt == nil || now.Sub(*token.LastUsedAt) > time.Hour {
		err = db.Model(&Token{}).Where("id = ?", token.ID).Update("last_used_at", now).Error
	}
	return token.Account, available(err)
}

// Tokens returns an account's tokens, the newest first.
func (s *Store) Tokens(ctx context.Context, account Account) ([]Token, error) {
	db, err := s.db(ctx)
	if err != nil {
		return nil, err
	}
	var tokens []Token
	err = db.Where("account_id = ?", account.ID).Order("id DESC").Find(&tokens).Error
	return tokens, available(err)
}

// DeleteToken takes one of an account's tokens back.
func (s *Store) DeleteToken(ctx context.Context, account Account, id uint64) error {
	db, err := s.db(ctx)
	if err != nil {
		return err
	}
	done := db.Where("account_id = ? AND id = ?", account.ID, id).Delete(&Token{})
	if done.Error == nil && done.RowsAffected == 0 {
		return fmt.Errorf("the token %d %w", id, ErrNotFound)
	}
	return available(done.Error)
}

// missing turns GORM's error for no record into ErrNotFound.
func missing(err error, what string) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return fmt.Errorf("%s %w", what, ErrNotFound)
	}
	return available(err)
}
