import { FilmFollower, type FilmElement } from './filmFollower';

/** A video element that runs as its speed says, and takes a while to start and to go elsewhere. */
class FakeFilm implements FilmElement {
  readyState = 4;
  paused = true;
  seeking = false;
  playbackRate = 1;
  plays = 0;
  seeks: number[] = [];
  private at = 0;
  private waitsMs = 0;

  get currentTime() {
    return this.at;
  }
  set currentTime(seconds: number) {
    this.seeks.push(seconds);
    this.at = seconds;
    this.seeking = true;
    this.waitsMs = 30;
  }
  play() {
    this.plays++;
    this.paused = false;
    this.waitsMs = Math.max(this.waitsMs, 110);
    return Promise.resolve();
  }
  pause() {
    this.paused = true;
  }
  pass(ms: number) {
    const waited = Math.min(ms, this.waitsMs);
    this.waitsMs -= waited;
    if (this.waitsMs === 0) this.seeking = false;
    if (!this.paused) this.at += ((ms - waited) / 1000) * this.playbackRate;
  }
}

const picture = 1 / 25;

/** Runs a film beside a clock that begins at some second and goes at some speed; what it is off, by turns. */
function run(film: FakeFilm, seconds: number, speed = 1, begin = 10) {
  const follower = new FilmFollower(film);
  const clock = (atMs: number) => begin + (atMs / 1000) * speed;
  const off: number[] = [];
  let shown = -1;
  for (let ms = 0; ms < seconds * 1000; ms += 1000 / 60) {
    follower.run(ms, clock);
    film.pass(1000 / 60);
    const number = Math.floor(film.currentTime / picture);
    if (number === shown) continue;
    shown = number;
    follower.saw(number * picture, ms + 1000 / 60, clock);
    off.push(number * picture - clock(ms + 1000 / 60));
  }
  return off;
}

const worst = (values: number[]) => Math.max(...values.map(Math.abs));

test('a film that starts late is with the sound within a picture in half a second, and stays there', () => {
  const film = new FakeFilm();
  const off = run(film, 6);
  expect(film.plays).toBe(1);
  expect(worst(off.slice(12))).toBeLessThan(picture);
  expect(worst(off.slice(75))).toBeLessThan(picture / 2);
  expect(film.playbackRate).toBeGreaterThanOrEqual(0.85);
  expect(film.playbackRate).toBeLessThanOrEqual(1.15);
});

test('where it stands on its first picture it starts at once, without going there', () => {
  const film = new FakeFilm();
  const follower = new FilmFollower(film);
  follower.stand(10 + picture / 2, 0);
  film.pass(40);
  film.seeks = [];
  // The sound is heard in 50 ms.
  follower.run(40, (atMs) => 10 + (atMs - 90) / 1000);
  expect(film.seeks).toEqual([]);
  expect(film.plays).toBe(1);
  film.pause();
  follower.run(40, (atMs) => 11 + (atMs - 90) / 1000);
  expect(film.seeks).toEqual([expect.closeTo(11.01, 6)]);
});

test.each([0.75, 1.25])('the clock goes at %s of its speed: the film follows as far as it can', (speed) => {
  const film = new FakeFilm();
  const off = run(film, 6, speed);
  // It is set anew where leading it is not enough.
  expect(worst(off.slice(10))).toBeLessThan(0.4);
});

test('standing, it goes to a picture once, the last one that was asked for, and is asked again when lost', () => {
  const film = new FakeFilm();
  const follower = new FilmFollower(film);
  follower.stand(4.02, 0);
  follower.stand(5.02, 10);
  expect(film.seeks).toEqual([4.02]);
  film.pass(40);
  follower.stand(5.02, 40);
  film.pass(40);
  follower.stand(5.02, 80);
  expect(film.seeks).toEqual([4.02, 5.02]);
  film.currentTime = 7;
  follower.stand(5.02, 100);
  expect(film.seeks).toEqual([4.02, 5.02, 7]);
  follower.stand(5.02, 2000);
  expect(film.seeks).toEqual([4.02, 5.02, 7, 5.02]);
});

test('it stops where the sound does, and nothing is asked of a film that has not come', () => {
  const film = new FakeFilm();
  const follower = new FilmFollower(film);
  run(film, 1);
  follower.stand(3.02, 1000);
  expect(film.paused).toBe(true);
  expect(film.seeks.at(-1)).toBe(3.02);
  const empty = new FakeFilm();
  empty.readyState = 0;
  const waiting = new FilmFollower(empty);
  waiting.stand(1, 0);
  waiting.run(0, () => 1);
  expect(empty.seeks).toEqual([]);
  expect(empty.plays).toBe(0);
});
