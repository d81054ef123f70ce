import { Button, Checkbox, CopyButton, Menu, Select, TextInput } from "@mantine/core";
import { IconDots, IconPlus } from "@tabler/icons-react";
import { type FormEvent, useState } from "react";
import { client, need } from "../api/client";
import { useCache, useChoices, usePeople, usePeopleChanges } from "../api/queries";
import type { Invitation, Person, PersonLine, Role } from "../api/types";
import { AskFirst } from "../draft/AskFirst";
import { ChangeList } from "../ui/ChangeList";
import { count, dayTime } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { Programs } from "./Programs";

interface Facts {
  username: string;
  name: string;
  role: Role;
  district: string;
  administrator: boolean;
}

const NOBODY: Facts = { username: "", name: "", role: "technician", district: "", administrator: false };

/** Who may sign in, what they do and where; for administrators. */
export function PeoplePage({ person: me }: { person: Person }) {
  const people = usePeople();
  const changes = usePeopleChanges();
  const cache = useCache();
  const [open, setOpen] = useState<{ id: string | null; facts: Facts } | null>(null);
  const [invitation, setInvitation] = useState<Invitation | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [words, setWords] = useState("");
  const [asked, setAsked] = useState<{ act: "remove" | "reset" | "end"; line: PersonLine } | null>(null);

  async function act(going: Promise<unknown>) {
    setError(null);
    try {
      const found = await going;
      if (found && typeof found === "object" && "token" in found) setInvitation(found as Invitation);
      setOpen(null);
    } catch (refusal) {
      setError(refusal);
    }
    setAsked(null);
    for (const key of ["people", "technicians"]) void cache.invalidateQueries({ queryKey: [key] });
  }

  function save(event: FormEvent) {
    event.preventDefault();
    if (!open) return;
    const { username, ...facts } = open.facts;
    void act(
      open.id
        ? need(
            client.PUT("/api/v1/people/{person_id}", {
              params: { path: { person_id: open.id } },
              body: facts,
            }),
          )
        : need(client.POST("/api/v1/people", { body: { username, ...facts } })),
    );
  }

  function go(line: PersonLine, what: "remove" | "reset" | "end" | "let in") {
    const at = { params: { path: { person_id: line.person.id } } };
    if (what === "remove") void act(need(client.DELETE("/api/v1/people/{person_id}", at)));
    else if (what === "reset") void act(need(client.POST("/api/v1/people/{person_id}/reset", at)));
    else if (what === "end") void act(need(client.POST("/api/v1/people/{person_id}/end-sessions", at)));
    else void act(need(client.POST("/api/v1/people/{person_id}/let-in", at)));
  }

  const rows = (people.data ?? []).filter(({ person }) =>
    `${person.name} ${person.username} ${person.role} ${person.district}`
      .toLowerCase()
      .includes(words.trim().toLowerCase()),
  );
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="inner">
          <div className="head">
            <h1>People</h1>
            <div className="actions">
              <TextInput
                aria-label="Filter people"
                placeholder="Filter by name, role, district"
                w={240}
                value={words}
                onChange={(e) => setWords(e.currentTarget.value)}
              />
              <Button
                leftSection={<IconPlus size={15} />}
                onClick={() => {
                  setError(null);
                  setOpen({ id: null, facts: NOBODY });
                }}
              >
                Invite somebody
              </Button>
            </div>
          </div>
          <Trouble error={error ?? people.error} />
          {invitation && <InvitationNote invitation={invitation} onClose={() => setInvitation(null)} />}
          {open && (
            <PersonForm
              isNew={open.id === null}
              facts={open.facts}
              onChange={(facts) => setOpen({ ...open, facts })}
              onSave={save}
              onCancel={() => setOpen(null)}
            />
          )}
          <table className="rows under">
            <thead>
              <tr>
                <th>Name</th>
                <th>User name</th>
                <th>Role</th>
                <th>District</th>
                <th className="num">Signed in</th>
                <th aria-label="Change" />
              </tr>
            </thead>
            <tbody>
              {rows.map((line) => (
                <tr key={line.person.id}>
                  <td>
                    {line.person.name}
                    {standing(line) && <div className="soft">{standing(line)}</div>}
                  </td>
                  <td className="mono">{line.person.username}</td>
                  <td>
                    {line.person.role}
                    {line.person.administrator && <div className="soft">administrator</div>}
                  </td>
                  <td>{line.person.district || <span className="soft">none</span>}</td>
                  <td className="num">{line.n_sessions || "–"}</td>
                  <td>
                    <Menu position="bottom-end">
                      <Menu.Target>
                        <Button
                          variant="subtle"
                          color="slate"
                          size="compact-sm"
                          aria-label={`What to do about ${line.person.name}`}
                        >
                          <IconDots size={16} />
                        </Button>
                      </Menu.Target>
                      <Menu.Dropdown>
                        {line.person.removed_at ? (
                          <Menu.Item onClick={() => go(line, "let in")}>Let in again</Menu.Item>
                        ) : (
                          <>
                            <Menu.Item
                              onClick={() => {
                                setError(null);
                                setOpen({ id: line.person.id, facts: factsOf(line.person) });
                              }}
                            >
                              Change
                            </Menu.Item>
                            <Menu.Item onClick={() => setAsked({ act: "reset", line })}>
                              Reset password
                            </Menu.Item>
                            <Menu.Item
                              disabled={line.n_sessions === 0}
                              onClick={() => setAsked({ act: "end", line })}
                            >
                              Sign out everywhere
                            </Menu.Item>
                            <Menu.Item
                              disabled={line.person.id === me.id}
                              onClick={() => setAsked({ act: "remove", line })}
                            >
                              Remove
                            </Menu.Item>
                          </>
                        )}
                      </Menu.Dropdown>
                    </Menu>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <Programs />
          <h2 className="far">What was changed</h2>
          <ChangeList changes={changes.data?.changes} empty="Nothing was changed here yet." />
        </div>
      </main>
      {asked && (
        <AskFirst
          title={QUESTIONS[asked.act].title(asked.line.person.name)}
          act={QUESTIONS[asked.act].act}
          onGo={() => go(asked.line, asked.act)}
          onClose={() => setAsked(null)}
        >
          <p className="flush">{QUESTIONS[asked.act].says}</p>
        </AskFirst>
      )}
    </div>
  );
}

const QUESTIONS = {
  remove: {
    title: (name: string) => `Remove ${name}?`,
    act: "Remove",
    says: "They are signed out and can no longer sign in. Everything they did keeps their name. They can be let in again.",
  },
  reset: {
    title: (name: string) => `Reset the password of ${name}?`,
    act: "Reset it",
    says: "They are signed out everywhere, and choose another password with a link that you give them.",
  },
  end: {
    title: (name: string) => `Sign ${name} out everywhere?`,
    act: "Sign out",
    says: "They sign in again with the password they have. What they have not sent stays on their device.",
  },
};

function standing({ person, invited_until, has_password, failed }: PersonLine): string {
  if (person.removed_at) return `removed ${dayTime(person.removed_at)}`;
  const told = [
    !has_password && (invited_until ? `invited until ${dayTime(invited_until)}` : "no password yet"),
    failed.count > 0 && `${count(failed.count, "attempt")} with a wrong password`,
  ];
  return told.filter(Boolean).join(", ");
}

const factsOf = ({ username, name, role, district, administrator }: Person): Facts => ({
  username,
  name,
  role,
  district: district ?? "",
  administrator: administrator ?? false,
});

function PersonForm({
  isNew,
  facts,
  onChange,
  onSave,
  onCancel,
}: {
  isNew: boolean;
  facts: Facts;
  onChange: (facts: Facts) => void;
  onSave: (event: FormEvent) => void;
  onCancel: () => void;
}) {
  return (
    <form className="note" onSubmit={onSave} aria-label={isNew ? "Invite somebody" : `Change ${facts.name}`}>
      <div className="actions" style={{ alignItems: "flex-end", flexWrap: "wrap" }}>
        <TextInput
          label="Name"
          w={200}
          value={facts.name}
          autoFocus
          onChange={(e) => onChange({ ...facts, name: e.currentTarget.value })}
        />
        {isNew && (
          <TextInput
            label="User name"
            w={150}
            value={facts.username}
            onChange={(e) => onChange({ ...facts, username: e.currentTarget.value })}
          />
        )}
        <Select
          label="Role"
          w={140}
          allowDeselect={false}
          data={useChoices().data?.roles ?? []}
          value={facts.role}
          onChange={(role) => onChange({ ...facts, role: (role ?? "technician") as Role })}
        />
        <TextInput
          label="District"
          w={180}
          value={facts.district}
          onChange={(e) => onChange({ ...facts, district: e.currentTarget.value })}
        />
        <Checkbox
          label="Administrator"
          mb={6}
          checked={facts.administrator}
          onChange={(e) => onChange({ ...facts, administrator: e.currentTarget.checked })}
        />
        <Button type="submit" disabled={!facts.name.trim() || (isNew && !facts.username.trim())}>
          {isNew ? "Invite" : "Save"}
        </Button>
        <Button variant="default" onClick={onCancel}>
          Leave it
        </Button>
      </div>
    </form>
  );
}

function InvitationNote({ invitation, onClose }: { invitation: Invitation; onClose: () => void }) {
  const link = `${window.location.origin}/invitation/${invitation.token}`;
  return (
    <div className="note" role="status">
      <p className="flush">
        Give this link to {invitation.person}. It works once, until {dayTime(invitation.expires_at)}, and is
        shown only now.
      </p>
      <p className="mono" style={{ overflowWrap: "anywhere" }}>
        {link}
      </p>
      <div className="actions">
        {window.isSecureContext && (
          <CopyButton value={link}>
            {({ copied, copy }) => <Button onClick={copy}>{copied ? "Copied" : "Copy the link"}</Button>}
          </CopyButton>
        )}
        <Button variant="default" onClick={onClose}>
          Done
        </Button>
      </div>
    </div>
  );
}
