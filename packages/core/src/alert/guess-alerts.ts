/** Alerts that somebody guesses: passwords of accounts, PINs and keys of inlets. */
import type { GuessInput, InletInput } from "./input.ts";
import type { Alert } from "./kind.ts";

/** So many accounts within an hour are one attack, not so many members who mistype. */
const MANY_ACCOUNTS = 3;

/** Budgets of which guesses take nothing (`attempts.ts`). */
const WAY_IN =
  "can sign in with a browser in which they signed in before, or from another address with a second factor.";
const WHERE = "The audit log on the page Access shows the addresses.";

/** @param inlets those that there are: guesses at others are of no one's secret */
export function guessAlerts(guesses: readonly GuessInput[], inlets: readonly InletInput[]): Alert[] {
  const names = guesses.filter(({ of }) => of === null).map(namesAlert);
  const accounts = guesses.filter(({ guessed, of }) => guessed === "account" && of !== null);
  const ofInlets = guesses.flatMap((guess) => {
    const inlet = guess.guessed === "account" ? undefined : inlets.find(({ slug }) => slug === guess.of);
    return inlet ? [inletAlert(guess, inlet)] : [];
  });
  const ofAccounts = accounts.length >= MANY_ACCOUNTS ? [manyAccounts(accounts)] : accounts.map(accountAlert);
  return [...ofAccounts, ...names, ...ofInlets];
}

function namesAlert(guess: GuessInput): Alert {
  return {
    ...common(guess),
    subject: "names",
    site: null,
    title: "Somebody guesses names of accounts",
    text: `Sign-ins to accounts that do not exist were slowed down, ${from(guess.addresses)}. No account is locked. ${WHERE}`,
  };
}

function accountAlert(guess: GuessInput): Alert {
  const next = guess.signedIn
    ? "A sign-in followed from the same address. Ask the member. If it was somebody else, reset the password at once."
    : `The account is not locked: its member ${WAY_IN}`;
  return {
    ...common(guess),
    site: null,
    title: `Somebody guesses the password of ${guess.of}`,
    text: `Sign-ins were slowed down, ${from(guess.addresses)}. ${next} ${WHERE}`,
  };
}

function manyAccounts(guesses: readonly GuessInput[]): Alert {
  const signedIn = guesses.filter((guess) => guess.signedIn).map(({ of }) => of);
  const next =
    signedIn.length > 0
      ? `A sign-in from the same address followed as ${signedIn.join(", ")}. Ask them. If it was somebody else, reset their passwords at once.`
      : `No account is locked: a member ${WAY_IN}`;
  const lastAt = Math.max(...guesses.map((guess) => guess.lastAt));
  return {
    kind: "secret-guessed",
    subject: "accounts",
    mark: String(lastAt),
    since: Math.min(...guesses.map((guess) => guess.firstAt)),
    site: null,
    title: `Somebody guesses passwords of ${guesses.length} accounts`,
    text: `Sign-ins were slowed down. ${next} Demand a second factor of all members. ${WHERE}`,
  };
}

function inletAlert(guess: GuessInput, { name, site }: InletInput): Alert {
  const [what, tried, advice] =
    guess.guessed === "pin"
      ? [
          "the PIN",
          "Wrong PINs",
          "They do not slow down others who have shown the right PIN before. If guesses go on, change the PIN.",
        ]
      : [
          "a key",
          "Wrong keys",
          "They do not slow down callers at other addresses. Check the caller: its key may have ended.",
        ];
  return {
    ...common(guess),
    site,
    title: `Somebody guesses ${what} of ${name}`,
    text: `${tried} were slowed down, ${from(guess.addresses)}. ${advice} ${WHERE}`,
  };
}

function common({ guessed, of, firstAt, lastAt }: GuessInput): Pick<Alert, "kind" | "subject" | "mark" | "since"> {
  return { kind: "secret-guessed", subject: `${guessed} ${of}`, mark: String(lastAt), since: firstAt };
}

function from(addresses: number): string {
  return addresses === 1 ? "from one address" : `from ${addresses} addresses`;
}
