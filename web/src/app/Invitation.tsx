import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { client, need } from "../api/client";
import { LookWithNotices } from "../ui/Look";
import { Mark } from "../ui/Mark";
import { Trouble } from "../ui/Trouble";
import { NewPassword } from "./NewPassword";
import "./sign-in.css";

/** Somebody invited chooses a password, once. */
export function Invitation() {
  return (
    <LookWithNotices>
      <InvitationSheet />
    </LookWithNotices>
  );
}

function InvitationSheet() {
  const { token = "" } = useParams();
  const navigate = useNavigate();
  const [password, setPassword] = useState("");
  const [again, setAgain] = useState("");
  const [error, setError] = useState<unknown>(null);
  const invited = useQuery({
    queryKey: ["invitation", token],
    queryFn: () => need(client.GET("/api/v1/invitations/{token}", { params: { path: { token } } })),
    retry: false,
  });

  async function choose(event: FormEvent) {
    event.preventDefault();
    try {
      await need(client.POST("/api/v1/invitations", { body: { token, password } }));
      void navigate("/");
    } catch (refusal) {
      setError(refusal);
    }
  }

  return (
    <main className="sign-in">
      <div className="sign-in-title">
        <Mark size={44} />
        <h1>Reedling</h1>
      </div>
      <Trouble error={invited.error} />
      {invited.data && (
        <form className="sign-in-form" onSubmit={choose}>
          <h2>Welcome, {invited.data.name}</h2>
          <p>
            Choose a password. Your user name is <b>{invited.data.username}</b>.
          </p>
          <NewPassword
            label="Password"
            word={password}
            again={again}
            onWord={setPassword}
            onAgain={setAgain}
          />
          <Trouble error={error} />
          <Button type="submit" mt="sm" disabled={!password || password !== again}>
            Keep this password
          </Button>
        </form>
      )}
    </main>
  );
}
