package store

// Readers is how many queries are asked at a time, for a test that takes them all.
var Readers = readers
