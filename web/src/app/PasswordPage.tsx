import { Button, PasswordInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { Trouble } from "../ui/Trouble";
import { NewPassword } from "./NewPassword";
import "./sign-in.css";

/** Choose another password of one's own. */
export function PasswordPage() {
  const [old, setOld] = useState("");
  const [word, setWord] = useState("");
  const [again, setAgain] = useState("");
  const [error, setError] = useState<unknown>(null);
  const [done, setDone] = useState(false);

  async function change(event: FormEvent) {
    event.preventDefault();
    setError(null);
    try {
      await need(client.POST("/api/v1/session/password", { body: { old, new: word } }));
      setDone(true);
    } catch (refusal) {
      setError(refusal);
    }
  }

  return (
    <main className="sheet" id="sheet">
      <div className="inner">
        <h1>Your password</h1>
        {done ? (
          <p role="status">
            It is changed. You were signed out on every other device. <Link to="/">Go on</Link>
          </p>
        ) : (
          <form className="sign-in-form" style={{ maxWidth: 420 }} onSubmit={change}>
            <PasswordInput
              label="The one you have"
              size="xs"
              autoComplete="current-password"
              value={old}
              onChange={(e) => setOld(e.currentTarget.value)}
            />
            <NewPassword
              label="The one you want"
              word={word}
              again={again}
              onWord={setWord}
              onAgain={setAgain}
            />
            <Trouble error={error} />
            <div className="actions under">
              <Button type="submit" disabled={!old || !word || word !== again}>
                Change it
              </Button>
              <Button variant="default" component={Link} to="/">
                Leave it
              </Button>
            </div>
          </form>
        )}
      </div>
    </main>
  );
}
