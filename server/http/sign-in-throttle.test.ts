import { describe, expect, it } from 'vitest';
import { checkPassword } from './password-rules.ts';
import { SignInThrottle } from './sign-in-throttle.ts';

/** A throttle whose clock moves only by its own waits, or by hand. */
function clocked() {
  const clock = { now: 0, waits: [] as number[] };
  const throttle = new SignInThrottle(
    () => clock.now,
    (ms) => {
      clock.waits.push(ms);
      clock.now += ms;
      return Promise.resolve();
    },
  );
  const wrong = (name = 'ada') => throttle.run(name, () => Promise.resolve(undefined));
  const right = (name = 'ada') => throttle.run(name, () => Promise.resolve('id'));
  return { clock, throttle, wrong, right };
}

describe('tries to sign in', () => {
  it('are free five times, then wait twice as long each time, up to 36 seconds', async () => {
    const { clock, wrong } = clocked();
    for (let i = 0; i < 13; i++) await wrong();
    expect(clock.waits).toEqual([1000, 2000, 4000, 8000, 16_000, 32_000, 36_000, 36_000]);
  });
  it('are a hundred an hour at most for a guesser', async () => {
    const { clock, wrong } = clocked();
    let tries = 0;
    while (clock.now < 3_600_000) {
      await wrong();
      tries++;
    }
    expect(tries).toBeLessThanOrEqual(112);
  });
  it('with the right password succeed after their wait, and forget the wrong ones', async () => {
    const { clock, wrong, right, throttle } = clocked();
    for (let i = 0; i < 20; i++) await wrong();
    expect(await right()).toBe('id');
    expect(throttle.delay('ada')).toBe(0);
    clock.waits.length = 0;
    await wrong();
    expect(clock.waits).toEqual([]);
  });
  it('for one name do not slow another', async () => {
    const { wrong, throttle } = clocked();
    for (let i = 0; i < 10; i++) await wrong('ada');
    expect([throttle.delay('ada') > 0, throttle.delay('bo')]).toEqual([true, 0]);
  });
  it('are forgotten after an hour', async () => {
    const { clock, wrong, throttle } = clocked();
    for (let i = 0; i < 6; i++) await wrong();
    expect(throttle.delay('ada')).toBe(2000);
    clock.now += 3_600_000 + 1000;
    expect(throttle.delay('ada')).toBe(0);
  });
  it('come one after the other, and a crowd is sent away without being tried', async () => {
    const tried: number[] = [];
    const releases: (() => void)[] = [];
    const throttle = new SignInThrottle();
    const run = (i: number) =>
      throttle.run('ada', () => {
        tried.push(i);
        return new Promise<string>((resolve) => releases.push(() => resolve('id')));
      });
    const first = [0, 1, 2, 3].map(run);
    await expect(run(4)).rejects.toMatchObject({ code: 'access.too-many' });
    await Promise.resolve();
    expect(tried).toEqual([0]);
    for (let i = 0; i < 4; i++) {
      await new Promise((resolve) => setTimeout(resolve, 1));
      releases[i]();
    }
    expect(await Promise.all(first)).toEqual(['id', 'id', 'id', 'id']);
    expect(tried).toEqual([0, 1, 2, 3]);
  });
  it('that fail inside do not hold up the next', async () => {
    const { throttle, right } = clocked();
    await expect(
      throttle.run('ada', () => Promise.reject(new Error('the database is away'))),
    ).rejects.toThrow('away');
    expect(await right()).toBe('id');
    expect(throttle.delay('ada')).toBe(0);
  });
  it('of made-up names do not fill the memory', async () => {
    const { throttle, wrong } = clocked();
    for (let i = 0; i < 1500; i++) await throttle.run(`name ${i}`, () => Promise.resolve('id'));
    for (let i = 0; i < 6; i++) await wrong('ada');
    for (let i = 0; i < 1500; i++) await throttle.run(`other ${i}`, () => Promise.resolve('id'));
    expect(throttle.size).toBeLessThan(1100);
    expect(throttle.delay('ada')).toBe(2000);
  });
});

describe('a password', () => {
  const weak = (password: string, own: string[] = []) => {
    try {
      checkPassword(password, own);
      return false;
    } catch (error) {
      return (error as { code: string }).code === 'access.weak-password';
    }
  };
  it.each(['correcthorse', 'letmein123456', '123456789012', 'zxcvbnm,./asdf', 'farlofarlofarlo'])(
    '%s is guessed soon',
    (password) => {
      expect(weak(password)).toBe(true);
    },
  );
  it.each(['ferry mussel plank kite', 'V7-xq&pLm2!wT', 'näher am leuchtturm als gestern'])(
    '%s is not',
    (password) => {
      expect(weak(password)).toBe(false);
    },
  );
  it('made of what everybody knows of the person is guessed soon', () => {
    expect(weak('wickersham12', ['Ada Wickersham'])).toBe(true);
    expect(weak('adawickersham', ['Ada Wickersham'])).toBe(true);
    expect(weak('lamphouse1234', ['Lamp House'])).toBe(true);
  });
});
