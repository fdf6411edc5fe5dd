// The engine's inner loop in C, for `npm run bench` (P1b): one layer, four stereo positions of 16-bit samples,
// eight-tap interpolation from a table of 512 phases with straight lines between, gain ramp. Prints ns per frame.
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <time.h>
#define TAPS 8
#define PHASES 512
#define BLOCK 128
#define POSITIONS 4
static double table[(PHASES + 1) * TAPS], taps[BLOCK * TAPS], left[POSITIONS][BLOCK], right[POSITIONS][BLOCK];
static int at[BLOCK];
int main(void) {
  const int frames = 96000, blocks = 40000;
  int16_t *data[POSITIONS];
  for (int p = 0; p < POSITIONS; p++) {
    data[p] = malloc(sizeof(int16_t) * 2 * (frames + 16));
    for (int i = 0; i < 2 * (frames + 16); i++) data[p][i] = (int16_t)(rand() % 65536 - 32768);
  }
  for (int i = 0; i < (PHASES + 1) * TAPS; i++) table[i] = (double)rand() / RAND_MAX - 0.5;
  double phase = 100, sum = 0;
  const double ratio = pow(2, 1.0 / 12);
  struct timespec a, b;
  clock_gettime(CLOCK_MONOTONIC, &a);
  for (int n = 0; n < blocks; n++) {
    for (int i = 0; i < BLOCK; i++) {
      int whole = (int)phase;
      at[i] = whole;
      double place = (phase - whole) * PHASES;
      int row = (int)place;
      double blend = place - row;
      for (int k = 0; k < TAPS; k++) {
        double c = table[row * TAPS + k];
        taps[i * TAPS + k] = c + blend * (table[row * TAPS + TAPS + k] - c);
      }
      phase += ratio;
      if (phase >= frames - 300) phase -= frames - 600;
    }
    for (int p = 0; p < POSITIONS; p++) {
      double gain = 1e-5;
      for (int i = 0; i < BLOCK; i++) {
        gain += 1e-12;
        const int16_t *x = data[p] + 2 * (at[i] - 3);
        double l = 0, r = 0;
        for (int k = 0; k < TAPS; k++) {
          l += x[2 * k] * taps[i * TAPS + k];
          r += x[2 * k + 1] * taps[i * TAPS + k];
        }
        left[p][i] += gain * l;
        right[p][i] += gain * r;
      }
    }
    sum += left[0][5] + right[3][9];
  }
  clock_gettime(CLOCK_MONOTONIC, &b);
  double ns = (b.tv_sec - a.tv_sec) * 1e9 + (b.tv_nsec - a.tv_nsec);
  printf("%.4f %g\n", ns / ((double)blocks * BLOCK), sum);
  return 0;
}
