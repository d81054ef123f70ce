import { Button, Modal, PasswordInput, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { client, need, SIGNED_IN_AGAIN } from "../api/client";
import { keys, useCache, useSignInPage } from "../api/queries";
import type { Person, Role, SignedIn } from "../api/types";
import { count, dayTime } from "../ui/format";
import { Look, LookWithNotices } from "../ui/Look";
import { Mark } from "../ui/Mark";
import "./sign-in.css";

const DOES: Record<Role, string> = {
  engineer: "writes the guidance, reads what came back",
  approver: "a second engineer, releases what others wrote",
  planner: "logs orders, gives them to technicians",
  technician: "carries them out, with Pocket on the phone",
};

/** Sign in by name and password; a demo offers its people. */
export function SignIn(props: { back?: string }) {
  return (
    <LookWithNotices>
      <SignInSheet {...props} />
    </LookWithNotices>
  );
}

function SignInSheet({ back }: { back?: string }) {
  const page = useSignInPage();
  const cache = useCache();
  const navigate = useNavigate();
  const { enter, refusal, busy } = useSignIn((person) => {
    cache.clear();
    cache.setQueryData(keys.me, person);
    void navigate(back ?? "/");
  });
  const people = page.data?.people ?? [];
  return (
    <main className="sign-in">
      <div className="sign-in-title">
        <Mark size={44} />
        <h1>Reedling</h1>
        <p>Write guidance a technician can carry out. See what the field made of it. Make it better.</p>
      </div>
      {people.length > 0 && (
        <section aria-labelledby="offered">
          <h2 id="offered">Try the demo as</h2>
          <ul className="offered">
            {people.map((person) => (
              <li key={person.id}>
                <button
                  type="button"
                  disabled={busy}
                  onClick={() => enter(person.username, page.data?.password ?? "")}
                >
                  <b>{person.name}</b>
                  <span>
                    {person.role}: {DOES[person.role]}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
      <SignInForm refusal={refusal} enter={enter} busy={busy} />
    </main>
  );
}

/**
 * Over a page whose session ended: signing in goes on where it was, and what waited is sent. Somebody
 * else starts from the beginning; what is not sent stays on the device for the one it belongs to.
 */
export function SignInOver(props: { person: Person; onBack: () => void }) {
  return (
    <Look>
      <SignInDialog {...props} />
    </Look>
  );
}

function SignInDialog({ person, onBack }: { person: Person; onBack: () => void }) {
  const cache = useCache();
  const { enter, refusal, busy } = useSignIn((who) => {
    if (who.id !== person.id) {
      window.location.assign("/");
      return;
    }
    cache.setQueryData(keys.me, who);
    onBack();
    void cache.invalidateQueries();
    window.dispatchEvent(new Event(SIGNED_IN_AGAIN));
  });
  return (
    <Modal
      opened
      onClose={() => undefined}
      withCloseButton={false}
      closeOnEscape={false}
      closeOnClickOutside={false}
      title="Your session has ended"
      centered
    >
      <p className="flush">
        Sign in to go on. The page stays as it is, and what is not saved yet is sent then.
      </p>
      <SignInForm refusal={refusal} enter={enter} busy={busy} username={person.username} />
    </Modal>
  );
}

function useSignIn(onSignedIn: (person: Person) => void) {
  const [refusal, setRefusal] = useState("");
  const [busy, setBusy] = useState(false);
  async function enter(name: string, word: string) {
    setBusy(true);
    try {
      const found = await need(client.POST("/api/v1/session", { body: { username: name, password: word } }));
      tellOfAttempts(found);
      onSignedIn(found.person);
    } catch (error) {
      setRefusal((error as Error).message);
    } finally {
      setBusy(false);
    }
  }
  return { enter, refusal, busy };
}

/** Somebody may have tried to guess the password: the person is told. */
function tellOfAttempts({ failed_attempts, last_failed_at }: SignedIn) {
  if (failed_attempts === 0) return;
  notifications.show({
    color: "bad",
    autoClose: false,
    message: `${count(failed_attempts, "attempt")} with a wrong password since you signed in last${
      last_failed_at ? `, the latest ${dayTime(last_failed_at)}` : ""
    }. If that was not you, choose another password.`,
  });
}

function SignInForm({
  refusal,
  enter,
  busy,
  username: known = "",
}: {
  refusal: string;
  enter: (name: string, word: string) => void;
  /** Whether a password is being checked. */
  busy: boolean;
  username?: string;
}) {
  const [username, setUsername] = useState(known);
  const [password, setPassword] = useState("");
  function submit(event: FormEvent) {
    event.preventDefault();
    enter(username, password);
  }
  return (
    <form onSubmit={submit} className="sign-in-form">
      <h2>Sign in</h2>
      <TextInput
        label="User name"
        autoComplete="username"
        value={username}
        onChange={(e) => setUsername(e.currentTarget.value)}
      />
      <PasswordInput
        label="Password"
        size="xs"
        autoComplete="current-password"
        data-autofocus={known ? true : undefined}
        value={password}
        onChange={(e) => setPassword(e.currentTarget.value)}
      />
      {refusal && (
        <p role="alert" className="note bad">
          {refusal}
        </p>
      )}
      <Button type="submit" mt="sm" loading={busy}>
        Sign in
      </Button>
    </form>
  );
}
