// pins ELF|HEX SECONDS [LINK]: a board with an ATmega328P on libsimavr, and what is connected to its pins, told line by line on its standard input:
//   level PIN 0|1 SECONDS             an input is pulled so from then on
//   volts CHANNEL MILLIVOLTS SECONDS  an analogue input
//   key LETTER SECONDS                a letter on the serial line
//   echo TRIGGER ECHO METRES          a sonar: an echo for each trigger; with `ahead` in place of metres it looks where the robot rolls
//   wheel POWER DIRECTION A B COUNTS TOP RADIUS   a motor with its wheel and encoder: radians a second at full power, metres; A and B -1: without
//   ahead METRES                      how far away a wall is when it begins
//   far CHANNEL MILLIVOLTS            an analogue input that tells how far away it is: so much a metre
//   bus ADDRESS REGISTERS             a part on the bus: its registers as hexadecimal bytes
//   display ADDRESS                   a display on the bus: 128 by 64 dots, by the commands of its chip
//   register NUMBER VALUE SECONDS     what one of the latest part's registers holds from then on
// Pins are D0 to D13 and A0 to A5, by number from 0 to 19. It prints what is said on the serial line, each line with its time; at the end of each pin that
// moved its edges, its latest high time and period (microseconds), and the share of the last 50 ms that it was high; and where the robot came to.
// With LINK its serial line is a pseudo terminal that stands there, at 57600 bits a second, and it runs no faster than a clock, until SECONDS or it is terminated.
#define _GNU_SOURCE
#include <fcntl.h>
#include <math.h>
#include <signal.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <termios.h>
#include <time.h>
#include <unistd.h>
#include "avr_adc.h"
#include "avr_ioport.h"
#include "avr_twi.h"
#include "avr_uart.h"
#include "sim_avr.h"
#include "sim_elf.h"
#include "sim_hex.h"

#define PINS 20
#define MOST 64

static avr_t* avr;
static avr_irq_t* pin_irq[PINS];

static struct {
  int level;
  long edges;
  double rose, high, period, spent, since;
  char bits[256];
  int bit_count;
} pins[PINS];

struct wheel {
  int power, direction, a, b;
  double counts, top, radius, angle, speed;
  long at;
};

static struct wheel wheels[4];
static int wheel_count;
static struct { int trigger, echo; double metres; } echoes[4];
static int echo_count;
static struct { char kind; int pin; int value; double at; } events[MOST];
static int event_count;
static double ahead = -1, wall = -1, tail = 1e18;
static int far_channel = -1;
static double far_volts;

static double now_us(void) { return avr->cycle * 1e6 / avr->frequency; }

static void quiet(struct avr_t* a, const int level, const char* format, va_list more) {
  (void)a;
  if (level <= LOG_ERROR) vfprintf(stderr, format, more);
}

static char port_of(int pin) { return pin < 8 ? 'D' : pin < 14 ? 'B' : 'C'; }
static int bit_of(int pin) { return pin < 8 ? pin : pin < 14 ? pin - 8 : pin - 14; }

// What stands at a pin from outside stays there, whatever its pull-up says.
static void set_pin(int pin, int level) {
  static avr_ioport_external_t ports[3] = {{.name = 'B'}, {.name = 'C'}, {.name = 'D'}};
  avr_ioport_external_t* port = &ports[port_of(pin) - 'B'];
  const int bit = 1 << bit_of(pin);
  port->mask |= bit;
  port->value = level ? port->value | bit : port->value & ~bit;
  avr_ioctl(avr, AVR_IOCTL_IOPORT_SET_EXTERNAL(port->name), port);
  avr_raise_irq(pin_irq[pin], level);
}

static avr_cycle_count_t echo_ends(struct avr_t* a, avr_cycle_count_t when, void* param) {
  (void)a;
  (void)when;
  set_pin((int)(long)param, 0);
  return 0;
}

static avr_cycle_count_t echo_begins(struct avr_t* a, avr_cycle_count_t when, void* param) {
  (void)when;
  const int i = (int)(long)param;
  const double metres = echoes[i].metres >= 0 ? echoes[i].metres : ahead;
  set_pin(echoes[i].echo, 1);
  avr_cycle_timer_register(a, (avr_cycle_count_t)(metres * 2 / 343 * a->frequency), echo_ends, (void*)(long)echoes[i].echo);
  return 0;
}

static void on_pin(avr_irq_t* irq, uint32_t value, void* param) {
  (void)irq;
  const int pin = (int)(long)param, level = value & 1;
  const double at = now_us();
  if (level == pins[pin].level) return;
  if (pins[pin].level && at > tail) pins[pin].spent += at - (pins[pin].since > tail ? pins[pin].since : tail);
  pins[pin].level = level;
  pins[pin].since = at;
  pins[pin].edges++;
  if (level) {
    pins[pin].period = at - pins[pin].rose;
    pins[pin].rose = at;
  } else {
    pins[pin].high = at - pins[pin].rose;
    if (pins[pin].high < 1.1 && pins[pin].bit_count < 255) pins[pin].bits[pins[pin].bit_count++] = pins[pin].high > 0.6 ? '1' : '0';
    for (int i = 0; i < echo_count; i++) {
      if (echoes[i].trigger == pin && pins[pin].high >= 9) avr_cycle_timer_register(avr, (avr_cycle_count_t)(450e-6 * avr->frequency), echo_begins, (void*)(long)i);
    }
  }
}

static void on_letter(avr_irq_t* irq, uint32_t value, void* param) {
  (void)irq;
  (void)param;
  static char line[256];
  static int size;
  if (value == '\n') {
    line[size] = 0;
    printf("%.3f %s\n", now_us() / 1e6, line);
    size = 0;
  } else if (value != '\r' && size < 255) {
    line[size++] = (char)value;
  }
}

// The share of a period that a pin is driven high: by its timer where that makes pulses, else as it stands.
static double duty_of(int pin) {
  static const struct { int pin, control, bit, compare; } pwm[] = {{3, 0xb0, 5, 0xb4}, {5, 0x44, 5, 0x48}, {6, 0x44, 7, 0x47}, {9, 0x80, 7, 0x88}, {10, 0x80, 5, 0x8a}, {11, 0xb0, 7, 0xb3}};
  for (unsigned i = 0; i < sizeof pwm / sizeof *pwm; i++) {
    if (pwm[i].pin == pin && (avr->data[pwm[i].control] >> pwm[i].bit & 1)) return avr->data[pwm[i].compare] / 255.0;
  }
  return pins[pin].level;
}

// A hundred microseconds of the wheels: they come to their speed in 60 ms, and stick below a twentieth of full power.
static avr_cycle_count_t roll(struct avr_t* a, avr_cycle_count_t when, void* param) {
  (void)param;
  const double seconds = 1e-4;
  double way = 0;
  for (int i = 0; i < wheel_count; i++) {
    struct wheel* w = &wheels[i];
    double share = duty_of(w->power) * (pins[w->direction].level ? -1 : 1);
    if (fabs(share) < 0.05) share = 0;
    w->speed += (share * w->top - w->speed) * seconds / 0.06;
    w->angle += w->speed * seconds;
    way += w->speed * seconds * w->radius / wheel_count;
    // Edges of a at whole counts, of b half a count on.
    const long to = (long)floor(w->angle / (2 * M_PI) * w->counts);
    while (w->a >= 0 && w->at != to) {
      const int forwards = w->at < to;
      w->at += forwards ? 1 : -1;
      const int level = !pins[w->a].level;
      set_pin(w->b, forwards ? !level : level);
      set_pin(w->a, level);
    }
  }
  if (ahead >= 0) ahead = ahead - way > 0.005 ? ahead - way : 0.005;
  if (far_channel >= 0) {
    const double volts = ahead * far_volts;
    avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0 + far_channel), (uint32_t)(volts < 5000 ? volts : 5000));
  }
  return when + (avr_cycle_count_t)(seconds * a->frequency);
}

// Parts on the bus: a register is chosen by the first byte that is written, and goes on with each byte read or written.
static struct { int address; uint8_t registers[256]; int display; uint8_t dots[8][128]; int column, from, to, page, awaits, which; } parts[4];
static int part_count;
static int chosen = -1, first;
static uint8_t at_register;
static avr_irq_t* bus_in;

// A byte for a display: 0x21 and 0x22 say where the dots go that follow; other commands are not looked at.
static void show(int i, int control, uint8_t data) {
  if (control == 0x40) {
    parts[i].dots[parts[i].page & 7][parts[i].column & 127] = data;
    if (parts[i].column++ >= parts[i].to) parts[i].column = parts[i].from;
  } else if (parts[i].awaits > 0) {
    parts[i].awaits--;
    if (parts[i].which == 0x21 && parts[i].awaits == 1) parts[i].column = parts[i].from = data;
    else if (parts[i].which == 0x21) parts[i].to = data;
    else if (parts[i].awaits == 1) parts[i].page = data;
  } else if (data == 0x21 || data == 0x22) {
    parts[i].which = data;
    parts[i].awaits = 2;
  }
}

static void on_bus(avr_irq_t* irq, uint32_t value, void* param) {
  (void)irq;
  (void)param;
  avr_twi_msg_irq_t message;
  message.u.v = value;
  const int what = message.u.twi.msg;
  if (what & TWI_COND_STOP) chosen = -1;
  if (what & TWI_COND_START) {
    chosen = -1;
    for (int i = 0; i < part_count; i++) {
      if (parts[i].address == message.u.twi.addr >> 1) chosen = i;
    }
    first = 1;
    if (chosen != -1) avr_raise_irq(bus_in, avr_twi_irq_msg(TWI_COND_ACK, message.u.twi.addr, 1));
  }
  if (chosen == -1) return;
  if (what & TWI_COND_WRITE) {
    avr_raise_irq(bus_in, avr_twi_irq_msg(TWI_COND_ACK, message.u.twi.addr, 1));
    if (first) at_register = message.u.twi.data;
    else if (parts[chosen].display) show(chosen, at_register, message.u.twi.data);
    else parts[chosen].registers[at_register++] = message.u.twi.data;
    first = 0;
  }
  if (what & TWI_COND_READ) avr_raise_irq(bus_in, avr_twi_irq_msg(TWI_COND_READ, message.u.twi.addr, parts[chosen].registers[at_register++]));
}

static void connect(char* line) {
  int a, b, c, d;
  double x, y, z;
  char text[600];
  if (sscanf(line, "level %d %d %lf", &a, &b, &x) == 3) {
    events[event_count].kind = 'l';
    events[event_count].pin = a;
    events[event_count].value = b;
    events[event_count++].at = x * 1e6;
  } else if (sscanf(line, "volts %d %d %lf", &a, &b, &x) == 3) {
    events[event_count].kind = 'v';
    events[event_count].pin = a;
    events[event_count].value = b;
    events[event_count++].at = x * 1e6;
  } else if (sscanf(line, "key %c %lf", text, &x) == 2) {
    events[event_count].kind = 'k';
    events[event_count].value = text[0];
    events[event_count++].at = x * 1e6;
  } else if (sscanf(line, "display %i", &a) == 1) {
    parts[part_count].address = a;
    parts[part_count++].display = 1;
  } else if (sscanf(line, "register %i %i %lf", &a, &b, &x) == 3) {
    events[event_count].kind = 'r';
    events[event_count].pin = a;
    events[event_count].value = b;
    events[event_count++].at = x * 1e6;
  } else if (sscanf(line, "echo %d %d %599s", &a, &b, text) == 3) {
    echoes[echo_count].trigger = a;
    echoes[echo_count].echo = b;
    echoes[echo_count++].metres = strcmp(text, "ahead") == 0 ? -1 : atof(text);
  } else if (sscanf(line, "wheel %d %d %d %d %lf %lf %lf", &a, &b, &c, &d, &x, &y, &z) == 7) {
    wheels[wheel_count++] = (struct wheel){a, b, c, d, x, y, z, 0, 0, 0};
  } else if (sscanf(line, "far %d %lf", &a, &x) == 2) {
    far_channel = a;
    far_volts = x;
  } else if (sscanf(line, "ahead %lf", &x) == 1) {
    ahead = wall = x;
  } else if (sscanf(line, "bus %i %599s", &a, text) == 2) {
    parts[part_count].address = a;
    for (int i = 0; text[2 * i] != 0 && i < 256; i++) sscanf(text + 2 * i, "%2hhx", &parts[part_count].registers[i]);
    part_count++;
  } else {
    fprintf(stderr, "what is this? %s", line);
    exit(2);
  }
}

// Idle time is skipped.
static void no_sleep(struct avr_t* a, avr_cycle_count_t cycles) {
  (void)a;
  (void)cycles;
}

// The serial line as a pseudo terminal. One end of it stays open here: else it would fail while nobody is at the other.
static int terminal = -1, may_send = 1;
static volatile sig_atomic_t stopped;

static void on_stop(int which) {
  (void)which;
  stopped = 1;
}

static void on_byte(avr_irq_t* irq, uint32_t value, void* param) {
  (void)irq;
  (void)param;
  const uint8_t byte = (uint8_t)value;
  if (write(terminal, &byte, 1) < 0) return;
}

static void on_flow(avr_irq_t* irq, uint32_t value, void* param) {
  (void)irq;
  (void)value;
  may_send = param != NULL;
}

static int open_terminal(const char* link) {
  terminal = posix_openpt(O_RDWR | O_NOCTTY | O_NONBLOCK);
  if (terminal < 0 || grantpt(terminal) || unlockpt(terminal)) return -1;
  unlink(link);
  if (symlink(ptsname(terminal), link)) return -1;
  const int other = open(ptsname(terminal), O_RDWR | O_NOCTTY);
  struct termios setting;
  if (other < 0 || tcgetattr(other, &setting)) return -1;
  cfmakeraw(&setting);
  return tcsetattr(other, TCSANOW, &setting);
}

// A byte for the chip where one has had the time to come, and no faster than the clock.
static void pass_terminal(avr_irq_t* into) {
  static avr_cycle_count_t next_byte, next_pause;
  static uint8_t bytes[256];
  static int size, at;
  static struct timespec begun;
  if (avr->cycle >= next_byte) {
    next_byte = avr->cycle + avr->frequency / 5760;
    if (at >= size) {
      const int got = (int)read(terminal, bytes, sizeof bytes);
      size = got > 0 ? got : 0;
      at = 0;
    }
    if (may_send && at < size) avr_raise_irq(into, bytes[at++]);
  }
  if (avr->cycle < next_pause) return;
  struct timespec is;
  clock_gettime(CLOCK_MONOTONIC, &is);
  if (next_pause == 0) begun = is;
  next_pause = avr->cycle + avr->frequency / 1000;
  const double passed = (is.tv_sec - begun.tv_sec) * 1e6 + (is.tv_nsec - begun.tv_nsec) / 1e3;
  if (now_us() > passed + 1000) usleep((useconds_t)(now_us() - passed));
}

int main(int count, char** given) {
  if (count < 3) return 2;
  avr_global_logger_set(quiet);
  elf_firmware_t firmware;
  memset(&firmware, 0, sizeof firmware);
  const size_t name = strlen(given[1]);
  uint32_t base = 0;
  if (name > 4 && strcmp(given[1] + name - 4, ".hex") == 0) firmware.flash = read_ihex_file(given[1], &firmware.flashsize, &base);
  else if (elf_read_firmware(given[1], &firmware)) return 2;
  if (firmware.flash == NULL) return 2;
  firmware.frequency = 16000000;
  firmware.vcc = firmware.avcc = firmware.aref = 5000;
  avr = avr_make_mcu_by_name("atmega328p");
  avr->log = LOG_ERROR;
  avr_init(avr);
  avr_load_firmware(avr, &firmware);
  avr->pc = base;
  avr->sleep = no_sleep;
  uint32_t flags = 0;
  avr_ioctl(avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
  flags &= ~(AVR_UART_FLAG_STDIO | AVR_UART_FLAG_POLL_SLEEP);
  avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
  if (count > 3 && open_terminal(given[3])) return 2;
  avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), terminal < 0 ? on_letter : on_byte, NULL);
  avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XON), on_flow, avr);
  avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XOFF), on_flow, NULL);
  avr_irq_t* const uart_in = avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT);
  signal(SIGTERM, on_stop);
  for (int pin = 0; pin < PINS; pin++) {
    pin_irq[pin] = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(port_of(pin)), bit_of(pin));
    avr_irq_register_notify(pin_irq[pin], on_pin, (void*)(long)pin);
  }
  bus_in = avr_io_getirq(avr, AVR_IOCTL_TWI_GETIRQ(0), TWI_IRQ_INPUT);
  avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_TWI_GETIRQ(0), TWI_IRQ_OUTPUT), on_bus, NULL);
  char line[700];
  while (fgets(line, sizeof line, stdin) != NULL) connect(line);
  if (wheel_count > 0) avr_cycle_timer_register(avr, 1600, roll, NULL);
  const double end = atof(given[2]) * 1e6;
  tail = end - 50000;
  int state = cpu_Running;
  while (now_us() < end && !stopped && state != cpu_Done && state != cpu_Crashed) {
    for (int i = 0; i < event_count; i++) {
      if (events[i].at < 0 || now_us() < events[i].at) continue;
      events[i].at = -1;
      if (events[i].kind == 'l') set_pin(events[i].pin, events[i].value);
      else if (events[i].kind == 'r') parts[part_count - 1].registers[events[i].pin] = events[i].value;
      else if (events[i].kind == 'v') avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0 + events[i].pin), events[i].value);
      else avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT), events[i].value);
    }
    state = avr_run(avr);
    if (terminal >= 0) pass_terminal(uart_in);
  }
  if (count > 3) unlink(given[3]);
  for (int pin = 0; pin < PINS; pin++) {
    if (pins[pin].edges == 0) continue;
    if (pins[pin].level) pins[pin].spent += end - (pins[pin].since > tail ? pins[pin].since : tail);
    printf("pin %d edges %ld high %.2f period %.2f share %.4f duty %.4f level %d bits %s\n", pin, pins[pin].edges, pins[pin].high, pins[pin].period, pins[pin].spent / 50000, duty_of(pin), pins[pin].level,
           pins[pin].bit_count > 0 ? pins[pin].bits : "-");
  }
  for (int i = 0; i < wheel_count; i++) printf("wheel %d angle %.4f speed %.4f power %.4f\n", i, wheels[i].angle, wheels[i].speed, duty_of(wheels[i].power));
  for (int i = 0; i < part_count; i++) {
    for (int y = 0; parts[i].display && y < 64; y++) {
      printf("dots ");
      for (int x = 0; x < 128; x++) putchar(parts[i].dots[y / 8][x] >> y % 8 & 1 ? '#' : '.');
      putchar('\n');
    }
  }
  if (wall >= 0) printf("ahead %.4f\n", ahead);
  return state == cpu_Crashed ? 3 : 0;
}
