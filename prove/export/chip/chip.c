// chip ELF COURSE WIDTH OUT LANES IN_ADDRESS OUT_ADDRESS CONTROL_ADDRESS OVER_ADDRESS: an ATmega on libsimavr that runs an exported program on a course of readings.
// COURSE holds WIDTH doubles for each tick; each tick takes OUT commands and LANES lanes from the chip's memory. It writes what the program compiled for this
// machine writes, with the cycles of the tick behind.
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include "avr_ioport.h"
#include "sim_avr.h"
#include "sim_elf.h"

static avr_t* avr;
static FILE* course;
static int width, commands, lanes, in_at, out_at, control_at, over_at;
static int ended;
static avr_cycle_count_t began, took;
static double* readings;
static uint16_t deepest = 0xffff;

static float float_at(int address) {
  float x;
  memcpy(&x, avr->data + address, 4);
  return x;
}

static void write_number(double x) { printf("%.9g ", x); }

static void on_place(struct avr_t* a, avr_io_addr_t address, uint8_t value, void* param) {
  (void)address;
  (void)param;
  a->data[address] = value;
  if (value == 1) {
    if (fread(readings, sizeof(double), width, course) != (size_t)width) ended = 1;
    for (int i = 0; i < width; i++) {
      const float x = (float)readings[i];
      memcpy(a->data + in_at + 4 * i, &x, 4);
    }
  } else if (value == 2) {
    began = a->cycle;
  } else if (value == 3) {
    took = a->cycle - began;
  } else if (value == 4) {
    const int over = a->data[over_at];
    if (over) printf("\x1eover");
    printf("\x1f");
    for (int i = 0; i < lanes * 3; i++) {
      int16_t x;
      memcpy(&x, a->data + control_at + 2 * i, 2);
      printf("%s%d", i == 0 ? "" : i % 3 == 0 ? "; " : " ", x);
    }
    printf("\x1f");
    for (int i = 0; i < commands; i++) write_number(float_at(out_at + 4 * i));
    printf("\x1f%llu\x1d", (unsigned long long)took);
    if (over) ended = 1;
  }
}

static void on_letter(struct avr_t* a, avr_io_addr_t address, uint8_t value, void* param) {
  (void)param;
  a->data[address] = value;
  putchar(value);
}

static void quiet(struct avr_t* a, const int level, const char* format, va_list more) {
  (void)a;
  if (level <= LOG_ERROR) vfprintf(stderr, format, more);
}

int main(int count, char** given) {
  if (count < 10) return 2;
  avr_global_logger_set(quiet);
  elf_firmware_t firmware;
  memset(&firmware, 0, sizeof firmware);
  if (elf_read_firmware(given[1], &firmware)) return 2;
  course = fopen(given[2], "rb");
  width = atoi(given[3]);
  commands = atoi(given[4]);
  lanes = atoi(given[5]);
  in_at = atoi(given[6]);
  out_at = atoi(given[7]);
  control_at = atoi(given[8]);
  over_at = atoi(given[9]);
  readings = malloc(sizeof(double) * width);
  avr = avr_make_mcu_by_name(count > 10 ? given[10] : "atmega328p");
  avr->log = LOG_ERROR;
  avr_init(avr);
  firmware.frequency = 16000000;
  avr_load_firmware(avr, &firmware);
  avr_register_io_write(avr, 0x3e, on_place, NULL);
  avr_register_io_write(avr, 0x4a, on_letter, NULL);
  int state = cpu_Running;
  while (!ended && state != cpu_Done && state != cpu_Crashed) {
    state = avr_run(avr);
    const uint16_t stack = avr->data[R_SPL] | avr->data[R_SPH] << 8;
    if (stack != 0 && stack < deepest) deepest = stack;
  }
  fprintf(stderr, "%u\n", deepest);
  return state == cpu_Crashed ? 3 : 0;
}
