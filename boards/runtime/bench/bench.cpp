// A whole chip on a bench, by libsimavr: lines are set and looked at, voltages given, a gyro answers on the two-wire bus,
// distance sensors answer their triggers, and what the serial line says is heard. One order a line comes in, one answer
// a line goes out:
//
//   run US            goes on for so many microseconds: "at CYCLES"
//   set PIN 0|1       a line from outside: "ok"
//   volts PIN MV      a voltage on a line: "ok"
//   gyro RAW          what the gyro tells, of 16 bits: "ok"
//   echo TRIGGER ECHO US   an echo so long after each trigger; 0 is none: "ok"
//   look PIN          "out|in SHARE PULSE": which way the line is, how much of the time it is high, its last pulse in us
//   free              bytes of memory that nothing has touched: "BYTES"
//   hang              the program stops getting on, as a crash would have it: "ok"
//   serial            what was said since it was asked last: "TEXT", with ends of lines as "|"
//
//   bench CHIP PROGRAM.elf
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include <string>

#include <simavr/avr_adc.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_twi.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <simavr/sim_time.h>

static const uint32_t HZ = 16000000;
static const uint8_t PAINT = 0xc5;
static avr_t *avr;
static uint32_t freeFrom;
static std::string said;

struct Line {
  uint64_t rose, pulse;
};
static Line lines[3][8];

struct Eye {
  int trigger, echo;
  uint32_t us;
};
static Eye eyes[4];
static int eyeCount;

/** "D5" as port and number; -1 where it is none. */
static int pinOf(const char *name) {
  const int port = name[0] - 'B', number = name[1] - '0';
  return port < 0 || port > 2 || number < 0 || number > 7 || name[2] ? -1 : port * 8 + number;
}

static avr_irq_t *irqOf(int pin) { return avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('B' + pin / 8), pin % 8); }
/** Holds a line from outside: without this the chip's own pull-up would have it back at the next write to its port. */
static void hold(int pin, bool high) {
  static uint8_t held[3], levels[3];
  const int port = pin / 8, bit = 1 << (pin % 8);
  held[port] |= bit;
  levels[port] = high ? levels[port] | bit : levels[port] & ~bit;
  avr_ioport_external_t outside;
  memset(&outside, 0, sizeof outside);
  outside.name = 'B' + port;
  outside.mask = held[port];
  outside.value = levels[port];
  avr_ioctl(avr, AVR_IOCTL_IOPORT_SET_EXTERNAL('B' + port), &outside);
  avr_raise_irq(irqOf(pin), high);
}

static uint8_t dataAt(int pin, int what) { return avr->data[0x23 + 3 * (pin / 8) + what] >> (pin % 8) & 1; }

static avr_cycle_count_t echoEnds(avr_t *, avr_cycle_count_t, void *param) {
  hold(static_cast<Eye *>(param)->echo, false);
  return 0;
}
static avr_cycle_count_t echoBegins(avr_t *, avr_cycle_count_t, void *param) {
  Eye *eye = static_cast<Eye *>(param);
  hold(eye->echo, true);
  avr_cycle_timer_register_usec(avr, eye->us, echoEnds, eye);
  return 0;
}

static void changed(avr_irq_t *, uint32_t value, void *param) {
  const int pin = int(reinterpret_cast<intptr_t>(param));
  Line &line = lines[pin / 8][pin % 8];
  if (value) line.rose = avr->cycle;
  else line.pulse = avr->cycle - line.rose;
  for (int i = 0; i < eyeCount; i += 1)
    if (eyes[i].trigger == pin && !value && eyes[i].us > 0) avr_cycle_timer_register_usec(avr, 300, echoBegins, &eyes[i]);
}

static void heard(avr_irq_t *, uint32_t value, void *) { said += value == '\n' ? '|' : char(value); }

// ---- The gyro: a device of registers

static const uint8_t GYRO = 0x68 << 1;
static int16_t turning;
static uint8_t selected, place;
static bool placed;

static uint8_t registerAt(uint8_t at) {
  return at == 0x47 ? uint8_t(turning >> 8) : at == 0x48 ? uint8_t(turning) : 0;
}

static void answer(uint8_t how, uint8_t data) {
  avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_TWI_GETIRQ(0), TWI_IRQ_INPUT), avr_twi_irq_msg(how, selected, data));
}

static void busSays(avr_irq_t *, uint32_t value, void *) {
  avr_twi_msg_irq_t message;
  message.u.v = value;
  const uint8_t how = message.u.twi.msg;
  if (how & TWI_COND_STOP) selected = 0;
  if (how & TWI_COND_START) {
    selected = (message.u.twi.addr & 0xfe) == GYRO ? message.u.twi.addr : 0;
    placed = false;
    if (selected) answer(TWI_COND_ACK, 1);
  }
  if (!selected) return;
  if (how & TWI_COND_WRITE) {
    answer(TWI_COND_ACK, 1);
    if (!placed) place = message.u.twi.data;
    placed = true;
  }
  if (how & TWI_COND_READ) answer(TWI_COND_READ, registerAt(place++));
}

// ---- The lines as they are driven

/** How much of the time a line is high: by its timer where that drives it. */
static double shareOf(int pin) {
  const uint8_t *data = avr->data;
  const uint8_t control0 = data[0x44], control2 = data[0xb0];
  if (pin == 2 * 8 + 6 && (control0 & 0x80)) return data[0x47] / 255.0;
  if (pin == 2 * 8 + 5 && (control0 & 0x20)) return data[0x48] / 255.0;
  if (pin == 0 * 8 + 3 && (control2 & 0x80)) return data[0xb3] / 255.0;
  if (pin == 2 * 8 + 3 && (control2 & 0x20)) return data[0xb4] / 255.0;
  return dataAt(pin, 2);
}

static bool obey(char *words) {
  char *part[4] = {};
  int count = 0;
  for (char *word = strtok(words, " \n"); word && count < 4; word = strtok(nullptr, " \n")) part[count++] = word;
  if (count == 0) return false;
  const std::string order = part[0];
  if (order == "run" && count == 2) {
    const uint64_t until = avr->cycle + strtoull(part[1], nullptr, 10) * (HZ / 1000000);
    while (avr->cycle < until) {
      const int state = avr_run(avr);
      if (state == cpu_Done || state == cpu_Crashed) break;
    }
    printf("at %llu\n", static_cast<unsigned long long>(avr->cycle));
  } else if (order == "set" && count == 3 && pinOf(part[1]) >= 0) {
    hold(pinOf(part[1]), part[2][0] == '1');
    printf("ok\n");
  } else if (order == "volts" && count == 3 && part[1][0] == 'C') {
    avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, part[1][1] - '0'), atoi(part[2]));
    printf("ok\n");
  } else if (order == "gyro" && count == 2) {
    turning = int16_t(atoi(part[1]));
    printf("ok\n");
  } else if (order == "echo" && count == 4 && pinOf(part[1]) >= 0 && pinOf(part[2]) >= 0) {
    int i = 0;
    while (i < eyeCount && eyes[i].trigger != pinOf(part[1])) i += 1;
    if (i == 4) return false;
    eyes[i] = Eye{pinOf(part[1]), pinOf(part[2]), uint32_t(atoi(part[3]))};
    if (i == eyeCount) eyeCount += 1;
    printf("ok\n");
  } else if (order == "look" && count == 2 && pinOf(part[1]) >= 0) {
    const int pin = pinOf(part[1]);
    const double pulse = double(lines[pin / 8][pin % 8].pulse) * 1e6 / HZ;
    printf("%s %.4f %.1f\n", dataAt(pin, 1) ? "out" : "in", shareOf(pin), pulse);
  } else if (order == "free") {
    uint32_t at = freeFrom;
    while (at <= avr->ramend && avr->data[at] == PAINT) at += 1;
    printf("%u\n", at - freeFrom);
  } else if (order == "hang") {
    // A jump to itself, at the end of the program's memory.
    avr->flash[avr->flashend - 1] = 0xff;
    avr->flash[avr->flashend] = 0xcf;
    avr->pc = avr->flashend - 1;
    printf("ok\n");
  } else if (order == "serial") {
    printf("%s\n", said.c_str());
    said.clear();
  } else {
    return false;
  }
  return true;
}

static void quiet(avr_t *, const int level, const char *format, va_list words) {
  if (level <= LOG_ERROR) vfprintf(stderr, format, words);
}

int main(int count, char **words) {
  if (count != 3) {
    fprintf(stderr, "bench CHIP PROGRAM.elf\n");
    return 2;
  }
  avr_global_logger_set(quiet);
  elf_firmware_t firmware;
  memset(&firmware, 0, sizeof firmware);
  if (elf_read_firmware(words[2], &firmware) != 0) return 2;
  avr = avr_make_mcu_by_name(words[1]);
  if (!avr) return 2;
  avr_init(avr);
  avr_load_firmware(avr, &firmware);
  avr->frequency = HZ;
  freeFrom = 0x100 + firmware.datasize + firmware.bsssize;
  for (uint32_t at = freeFrom; at <= avr->ramend; at += 1) avr->data[at] = PAINT;
  avr->vcc = avr->avcc = avr->aref = 5000;
  uint32_t flags = 0;
  avr_ioctl(avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
  flags &= ~uint32_t(AVR_UART_FLAG_STDIO | AVR_UART_FLAG_POLL_SLEEP);
  avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
  avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), heard, nullptr);
  avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_TWI_GETIRQ(0), TWI_IRQ_OUTPUT), busSays, nullptr);
  for (int pin = 0; pin < 24; pin += 1)
    avr_irq_register_notify(irqOf(pin), changed, reinterpret_cast<void *>(intptr_t(pin)));
  char order[200];
  while (fgets(order, sizeof order, stdin)) {
    if (!obey(order)) printf("?\n");
    fflush(stdout);
  }
  return 0;
}
