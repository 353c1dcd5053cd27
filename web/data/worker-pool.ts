/** A question was asked again before it was answered; the later one is answered instead. */
export class Superseded extends Error {
  constructor() {
    super('asked again meanwhile');
  }
}

/** The question took longer than it may; its worker was stopped. */
export class TookTooLong extends Error {
  constructor() {
    super('took too long');
  }
}

/** What a worker tells: once that it has loaded, then for each question its answer or why there is none. */
export interface Reply {
  readonly ready?: boolean;
  readonly answer?: unknown;
  readonly failure?: string;
}

/** A worker that was started. */
export interface PoolWorker<Question> {
  ask(question: Question): void;
  stop(): void;
}

/** Starts a worker that tells its replies, and when it broke. */
export type StartWorker<Question> = (
  hear: (reply: Reply) => void,
  broken: (message: string) => void,
) => PoolWorker<Question>;

export interface Asking {
  /** What the question is about: of those with the same topic only the last one asked is answered. */
  readonly topic: string;
  /** Whether it can wait: such questions never take the last free worker. */
  readonly canWait?: boolean;
}

interface Asked<Question> extends Asking {
  readonly question: Question;
  readonly resolve: (answer: unknown) => void;
  readonly reject: (error: Error) => void;
  isSuperseded: boolean;
}

interface Member<Question> {
  readonly worker: PoolWorker<Question>;
  isReady: boolean;
  asked: Asked<Question> | undefined;
  timer: ReturnType<typeof setTimeout> | undefined;
}

/**
 * Workers that answer questions, each one at a time. A slow question holds up no other: one that nobody waits for any more is
 * stopped as soon as its worker is needed, one that takes longer than it may is stopped in any case, and a new worker takes
 * the place of one that was stopped.
 */
export class WorkerPool<Question> {
  private readonly members: Member<Question>[] = [];
  private waiting: Asked<Question>[] = [];

  /**
   * @param most how many workers there are at most; 2 or more where some questions can wait
   * @param time milliseconds that a worker may take over one question
   * @param keeps whether workers keep what they worked out, so that none is stopped for being asked in vain
   */
  constructor(
    private readonly start: StartWorker<Question>,
    private readonly most: number,
    private readonly time: number,
    private readonly keeps = false,
  ) {}

  /** Rejects with {@link Superseded}, {@link TookTooLong}, or the failure that the worker tells. */
  ask<Answer>(question: Question, asking: Asking): Promise<Answer> {
    return new Promise<Answer>((resolve, reject) => {
      this.supersede(asking.topic);
      // The worker answers each question with what it asks for.
      this.waiting.push({
        ...asking,
        question,
        resolve: (answer) => resolve(answer as Answer),
        reject,
        isSuperseded: false,
      });
      this.assign();
    });
  }

  private supersede(topic: string): void {
    const [dropped, left] = [
      this.waiting.filter((one) => one.topic === topic),
      this.waiting.filter((one) => one.topic !== topic),
    ];
    this.waiting = left;
    for (const { asked } of this.members) {
      if (!asked || asked.isSuperseded || asked.topic !== topic) continue;
      asked.isSuperseded = true;
      dropped.push(asked);
    }
    for (const { reject } of dropped) reject(new Superseded());
  }

  /** Gives questions that wait to workers that are free, urgent ones first. */
  private assign(): void {
    for (const canWait of [false, true])
      for (const asked of this.waiting.filter((one) => Boolean(one.canWait) === canWait)) {
        const member = this.free(canWait ? 1 : 0);
        if (!member) return;
        this.waiting = this.waiting.filter((one) => one !== asked);
        this.give(member, asked);
      }
  }

  /** A worker without a question, where at least some others are left without one. */
  private free(others: number): Member<Question> | undefined {
    const idle = this.members.filter(({ asked }) => !asked);
    const room = this.most - this.members.length;
    const idleFor = this.keeps ? [] : this.members.filter(({ asked }) => asked?.isSuperseded);
    if (idle.length + room + idleFor.length <= others) return undefined;
    const [member] = idle;
    if (member) return member;
    if (room > 0) return this.add();
    const [unwanted] = idleFor;
    if (!unwanted) return undefined;
    this.stop(unwanted);
    return this.add();
  }

  private add(): Member<Question> {
    const member: Member<Question> = {
      worker: this.start(
        (reply) => this.hear(member, reply),
        (message) => this.fail(member, new Error(message)),
      ),
      isReady: false,
      asked: undefined,
      timer: undefined,
    };
    this.members.push(member);
    return member;
  }

  private give(member: Member<Question>, asked: Asked<Question>): void {
    member.asked = asked;
    if (member.isReady) this.put(member);
  }

  /** Puts its question to a worker. One that is still loading would not hear it, and loading counts for nobody's time. */
  private put(member: Member<Question>): void {
    if (!member.asked) return;
    member.worker.ask(member.asked.question);
    member.timer = setTimeout(() => this.fail(member, new TookTooLong()), this.time);
  }

  private fail(member: Member<Question>, error: Error): void {
    const { asked } = member;
    this.stop(member);
    if (asked && !asked.isSuperseded) asked.reject(error);
    this.assign();
  }

  private hear(member: Member<Question>, { ready, answer, failure }: Reply): void {
    // What a worker said before it was stopped may still be on its way.
    if (!this.members.includes(member)) return;
    if (ready) {
      member.isReady = true;
      this.put(member);
      return;
    }
    const { asked } = member;
    clearTimeout(member.timer);
    member.asked = undefined;
    if (asked && !asked.isSuperseded) {
      if (failure !== undefined) asked.reject(new Error(failure));
      else asked.resolve(answer);
    }
    this.assign();
  }

  private stop(member: Member<Question>): void {
    clearTimeout(member.timer);
    member.worker.stop();
    this.members.splice(this.members.indexOf(member), 1);
  }
}
