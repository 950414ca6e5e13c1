// As much of a board's own library as the meaning of a program stands on, on the machine that proves it.
#pragma once
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

typedef uint8_t byte;
class __FlashStringHelper;
#define PROGMEM
#define F(text) (reinterpret_cast<const __FlashStringHelper*>(text))
#define pgm_read_byte(at) (*reinterpret_cast<const unsigned char*>(at))

inline char* ltoa(long x, char* into, int) {
  sprintf(into, "%ld", x);
  return into;
}
