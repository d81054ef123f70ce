import { LookWithNotices } from "../ui/Look";
import { PasswordPage } from "./PasswordPage";

/** A technician's page to change the password. */
export function PocketPassword() {
  return (
    <LookWithNotices>
      <PasswordPage />
    </LookWithNotices>
  );
}
