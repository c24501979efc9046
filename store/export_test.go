package store

// Turns are how many queries are asked at a time, for a test that takes them all.
var Turns = readers
