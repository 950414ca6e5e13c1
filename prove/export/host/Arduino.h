// As much of the boards' own library as the meaning of a program stands on: for the machine that proves it, and for a chip alone.
#pragma once
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

typedef uint8_t byte;
class __FlashStringHelper;

#ifdef __AVR__
#include <avr/io.h>
#include <avr/pgmspace.h>
#define F(text) (reinterpret_cast<const __FlashStringHelper*>(PSTR(text)))
#else
#define PROGMEM
#define F(text) (reinterpret_cast<const __FlashStringHelper*>(text))
#define pgm_read_byte(at) (*reinterpret_cast<const unsigned char*>(at))

inline char* ltoa(long x, char* into, int) {
  sprintf(into, "%ld", x);
  return into;
}
#endif
