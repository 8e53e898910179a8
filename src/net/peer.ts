import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import { within } from '@/core/base/waiting';

/** What a line takes and gives. */
export interface LineEvents {
  text(data: string): void;
  bytes(data: Uint8Array<ArrayBuffer>): void;
  /** Both ways are open; told once. */
  opened(): void;
  /** Nothing passes any more; told once, also where it never opened. */
  closed(): void;
  /** The sound of the other side. */
  sound(stream: MediaStream): void;
}

export interface Line {
  sendText(data: string): void;
  sendBytes(data: Uint8Array<ArrayBuffer>): void;
  /** Bytes of blocks that wait to be sent. */
  readonly waitingBytes: number;
  /** How the sound is on its way, as far as the browser tells. */
  measure(): Promise<LineFigures>;
  /** Sends another sound from now on, or none. */
  sendSound(track: MediaStreamTrack | null): Promise<void>;
  close(): void;
}

export interface LineFigures {
  readonly roundTripSeconds: number | null;
  /** What the receiving end keeps in hand against jitter. */
  readonly bufferSeconds: number | null;
  /** Share of the sound's packets that were lost. */
  readonly lost: number | null;
}

/** Addresses are looked for no longer than this: those found by then are what the other side gets. */
const gatherMs = 2500;
/** A line that has not opened by then will not: by way of a server, and where people carry the texts. */
export const openMs = { usual: 20_000, byHand: 30 * 60_000 } as const;
/** A line may be away for a moment. */
const awayMs = 4000;
const description = { offer: 'offer', answer: 'answer' } as const;

/** Speech at the best this codec has for it; no gaps instead of silence (RFC 7587, section 6.1). */
const soundFormat = 'maxaveragebitrate=96000;usedtx=0;useinbandfec=1;cbr=0';

const withSoundFormat = (sdp: string) => {
  const opus = /a=rtpmap:(\d+) opus\/48000/i.exec(sdp)?.[1];
  return opus ? sdp.replace(new RegExp(`(a=fmtp:${opus} [^\\r\\n]*)`), `$1;${soundFormat}`) : sdp;
};

/** One line between two browsers: sound both ways, words in order, blocks in order beside them. */
export class PeerLine implements Line {
  private readonly connection: RTCPeerConnection;
  private words: RTCDataChannel | null = null;
  private blocks: RTCDataChannel | null = null;
  private state: 'opening' | 'open' | 'closed' = 'opening';
  private away: ReturnType<typeof setTimeout> | undefined;
  private readonly limit: ReturnType<typeof setTimeout>;
  private sender: RTCRtpSender | null = null;

  private constructor(
    iceServers: RTCIceServer[],
    private readonly events: LineEvents,
    ms: number,
  ) {
    this.connection = new RTCPeerConnection({ iceServers });
    this.limit = setTimeout(() => this.close(), ms);
    this.connection.onconnectionstatechange = () => this.watch();
    this.connection.ontrack = ({ track, streams }) => events.sound(streams[0] ?? new MediaStream([track]));
    this.connection.ondatachannel = ({ channel }) => this.adopt(channel);
  }

  /** A line that is offered: resolves to it and to the text that the other side needs. */
  static async offer(
    iceServers: RTCIceServer[],
    sound: MediaStreamTrack | null,
    events: LineEvents,
    ms: number = openMs.usual,
  ): Promise<{ line: PeerLine; sdp: string }> {
    const line = new PeerLine(iceServers, events, ms);
    line.adopt(line.connection.createDataChannel('words'));
    line.adopt(line.connection.createDataChannel('blocks'));
    line.sender = line.connection.addTransceiver(sound ?? 'audio', { direction: 'sendrecv' }).sender;
    await line.connection.setLocalDescription(await line.connection.createOffer());
    return { line, sdp: await line.gathered() };
  }

  /** Answers an offer. Throws ParolaError `damaged-file` for what is none. */
  static async answer(
    iceServers: RTCIceServer[],
    offer: string,
    sound: MediaStreamTrack | null,
    events: LineEvents,
    ms: number = openMs.usual,
  ): Promise<{ line: PeerLine; sdp: string }> {
    const line = new PeerLine(iceServers, events, ms);
    try {
      await line.connection.setRemoteDescription({ type: description.offer, sdp: withSoundFormat(offer) });
      const [transceiver] = line.connection.getTransceivers();
      transceiver.direction = 'sendrecv';
      line.sender = transceiver.sender;
      await line.sender.replaceTrack(sound);
      await line.connection.setLocalDescription(await line.connection.createAnswer());
    } catch {
      line.close();
      throw badOffer();
    }
    return { line, sdp: await line.gathered() };
  }

  /** The answer to what was offered. Throws ParolaError `damaged-file` for what is none. */
  async accept(answer: string): Promise<void> {
    try {
      await this.connection.setRemoteDescription({ type: description.answer, sdp: withSoundFormat(answer) });
    } catch {
      throw badOffer();
    }
  }

  sendText(data: string): void {
    if (this.words?.readyState === 'open') this.words.send(data);
  }

  sendBytes(data: Uint8Array<ArrayBuffer>): void {
    if (this.blocks?.readyState === 'open') this.blocks.send(data);
  }

  get waitingBytes(): number {
    return this.blocks?.readyState === 'open' ? this.blocks.bufferedAmount : Infinity;
  }

  async sendSound(track: MediaStreamTrack | null): Promise<void> {
    await this.sender?.replaceTrack(track);
  }

  async measure(): Promise<LineFigures> {
    const report = (await this.connection.getStats()) as unknown as ReadonlyMap<
      string,
      Record<string, unknown>
    >;
    const numberOf = (value: unknown) => (typeof value === 'number' ? value : null);
    let roundTripSeconds: number | null = null;
    let bufferSeconds: number | null = null;
    let lost: number | null = null;
    for (const stats of report.values()) {
      if (stats.type === 'candidate-pair' && stats.nominated === true)
        roundTripSeconds = numberOf(stats.currentRoundTripTime);
      if (stats.type !== 'inbound-rtp' || stats.kind !== 'audio') continue;
      const [held, emitted] = [numberOf(stats.jitterBufferDelay), numberOf(stats.jitterBufferEmittedCount)];
      if (held !== null && emitted) bufferSeconds = held / emitted;
      const [gone, came] = [numberOf(stats.packetsLost) ?? 0, numberOf(stats.packetsReceived) ?? 0];
      if (gone + came > 0) lost = gone / (gone + came);
    }
    return { roundTripSeconds, bufferSeconds, lost };
  }

  close(): void {
    if (this.state === 'closed') return;
    this.state = 'closed';
    clearTimeout(this.limit);
    clearTimeout(this.away);
    this.connection.close();
    this.events.closed();
  }

  private async gathered(): Promise<string> {
    const all = new Promise<void>((resolve) => {
      const look = () => this.connection.iceGatheringState === 'complete' && resolve();
      this.connection.addEventListener('icegatheringstatechange', look);
      look();
    });
    await within(all, gatherMs, '').catch(() => undefined);
    const sdp = this.connection.localDescription?.sdp;
    if (!sdp) throw new ParolaError('unsupported', say`This browser cannot open a line to another one.`);
    return sdp;
  }

  private adopt(channel: RTCDataChannel) {
    channel.binaryType = 'arraybuffer';
    channel.onopen = () => this.look();
    channel.onclose = () => this.close();
    if (channel.label === 'words') {
      this.words = channel;
      channel.onmessage = ({ data }) => typeof data === 'string' && this.events.text(data);
    } else if (channel.label === 'blocks') {
      this.blocks = channel;
      channel.onmessage = ({ data }) =>
        data instanceof ArrayBuffer && this.events.bytes(new Uint8Array(data));
    }
    this.look();
  }

  private look() {
    if (this.state !== 'opening' || this.words?.readyState !== 'open' || this.blocks?.readyState !== 'open')
      return;
    this.state = 'open';
    clearTimeout(this.limit);
    this.events.opened();
  }

  private watch() {
    const { connectionState } = this.connection;
    clearTimeout(this.away);
    if (connectionState === 'failed' || connectionState === 'closed') this.close();
    else if (connectionState === 'disconnected') this.away = setTimeout(() => this.close(), awayMs);
  }
}

const badOffer = () =>
  new ParolaError(
    'damaged-file',
    say`This text opens no line. Copy all of it once more, or ask for a new one.`,
  );
