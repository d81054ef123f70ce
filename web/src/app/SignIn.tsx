import { Button, PasswordInput, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { client, need } from "../api/client";
import { keys, useCache, useSignInPage } from "../api/queries";
import type { Role } from "../api/types";
import { Mark } from "../ui/Mark";
import "./sign-in.css";

const DOES: Record<Role, string> = {
  engineer: "writes the guidance, reads what came back",
  approver: "a second engineer, releases what others wrote",
  planner: "logs orders, gives them to technicians",
  technician: "carries them out, with Pocket on the phone",
};

/** Sign in by name and password; a demo offers its people. */
export function SignIn({ back }: { back?: string }) {
  const page = useSignInPage();
  const cache = useCache();
  const navigate = useNavigate();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [refusal, setRefusal] = useState("");

  async function enter(name: string, word: string) {
    try {
      const person = await need(client.POST("/api/session", { body: { username: name, password: word } }));
      cache.clear();
      cache.setQueryData(keys.me, person);
      navigate(back ?? "/");
    } catch (error) {
      setRefusal((error as Error).message);
    }
  }

  function submit(event: FormEvent) {
    event.preventDefault();
    enter(username, password);
  }

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
                <button type="button" onClick={() => enter(person.username, page.data?.password ?? "")}>
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
          value={password}
          onChange={(e) => setPassword(e.currentTarget.value)}
        />
        {refusal && (
          <p role="alert" className="note bad">
            {refusal}
          </p>
        )}
        <Button type="submit" mt="sm">
          Sign in
        </Button>
      </form>
    </main>
  );
}
