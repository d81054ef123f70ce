import { Button, CopyButton, Select, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { client, need } from "../api/client";
import { usePrograms } from "../api/queries";
import type { NewProgram, Role } from "../api/types";
import { useChange } from "../api/use-change";
import { AskFirst } from "../draft/AskFirst";
import { dayTime } from "../ui/format";
import { Trouble } from "../ui/Trouble";

const CHANGED = [["programs"], ["people", "changes"]];

/** Programs that come in by a token of their own; the token is shown once, when it is made. */
export function Programs() {
  const held = usePrograms();
  const [name, setName] = useState("");
  const [role, setRole] = useState<Role | null>(null);
  const [made, setMade] = useState<NewProgram | null>(null);
  const [asked, setAsked] = useState<{ id: string; name: string } | null>(null);
  const add = useChange(
    (body: { name: string; role: Role }) => need(client.POST("/api/v1/programs", { body })),
    CHANGED,
  );
  const revoke = useChange(
    (id: string) =>
      need(client.DELETE("/api/v1/programs/{program_id}", { params: { path: { program_id: id } } })),
    CHANGED,
  );
  const programs = held.data?.programs ?? [];

  function onAdd(event: FormEvent) {
    event.preventDefault();
    if (!role) return;
    add.mutate(
      { name, role },
      {
        onSuccess: (program) => {
          setMade(program);
          setName("");
        },
      },
    );
  }

  return (
    <section aria-label="Programs">
      <h2 className="far">Programs</h2>
      <p className="soft">
        A program uses the API with a token of its own and does what people of its role may. It never approves
        and records nothing for a technician. <a href="/docs">What the API offers</a>
      </p>
      <Trouble error={held.error ?? add.error ?? revoke.error} />
      {made && (
        <div className="note" role="status">
          <p className="flush">
            The token of {made.program.name}. It is shown now and never again: keep it where the program finds
            it.
          </p>
          <code className="mono">{made.token}</code>{" "}
          <CopyButton value={made.token}>
            {({ copied, copy }) => (
              <Button variant="default" onClick={copy}>
                {copied ? "Copied" : "Copy"}
              </Button>
            )}
          </CopyButton>{" "}
          <Button variant="subtle" onClick={() => setMade(null)}>
            I have kept it
          </Button>
        </div>
      )}
      {programs.length > 0 && (
        <table className="rows">
          <thead>
            <tr>
              <th>Name</th>
              <th>Role</th>
              <th>Made</th>
              <th>Last used</th>
              <th aria-label="Change" />
            </tr>
          </thead>
          <tbody>
            {programs.map(({ program, created_at, last_used_at }) => (
              <tr key={program.id}>
                <td>{program.name}</td>
                <td>{program.role}</td>
                <td>{dayTime(created_at)}</td>
                <td>{last_used_at ? dayTime(last_used_at) : "never"}</td>
                <td>
                  <Button variant="subtle" color="bad" onClick={() => setAsked(program)}>
                    Revoke
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {programs.length === 0 && !held.isPending && <p className="soft">No program has a token.</p>}
      <form className="actions under" onSubmit={onAdd}>
        <TextInput
          aria-label="Name of the program"
          placeholder="Name of the program"
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
        />
        <Select
          aria-label="Role of the program"
          placeholder="Role"
          data={held.data?.roles ?? []}
          value={role}
          onChange={(value) => setRole(value as Role | null)}
        />
        <Button type="submit" variant="default" disabled={!name.trim() || !role} loading={add.isPending}>
          Make a token
        </Button>
      </form>
      {asked && (
        <AskFirst
          title={`Revoke the token of ${asked.name}?`}
          act="Revoke"
          onGo={() => {
            revoke.mutate(asked.id);
            setAsked(null);
          }}
          onClose={() => setAsked(null)}
        >
          <p className="flush">
            The program is refused from its next request on. What it did keeps its name.
          </p>
        </AskFirst>
      )}
    </section>
  );
}
