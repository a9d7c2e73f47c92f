// The fields of an account: its mail address and its password.
import { PasswordInput, TextInput } from "@mantine/core";
import { problemOf } from "../api/client";
import { say } from "../shared/text";

type Field = { value: string; onChange: (value: string) => void; focus?: boolean };

export function MailField({ value, onChange, focus }: Field) {
  return (
    <TextInput
      label={say("Mail address")}
      type="email"
      autoComplete="username"
      value={value}
      onChange={(e) => onChange(e.target.value)}
      data-autofocus={focus || undefined}
    />
  );
}

/** A password: the one that is known, or a new one, of which is said what makes a good one. */
export function PasswordField({ value, onChange, fresh, label }: Field & { fresh?: boolean; label?: string }) {
  return (
    <PasswordInput
      label={label ?? say("Password")}
      description={fresh ? say("At least 10 characters; a few words in a row are good.") : undefined}
      autoComplete={fresh ? "new-password" : "current-password"}
      value={value}
      onChange={(e) => onChange(e.target.value)}
    />
  );
}

/** The field for a code of six digits that came by mail or by text message. */
export function CodeField({
  value,
  onChange,
  label,
}: {
  value: string;
  onChange: (code: string) => void;
  label?: string;
}) {
  return (
    <TextInput
      label={label ?? say("The code of six digits")}
      inputMode="numeric"
      autoComplete="one-time-code"
      maxLength={12}
      w={180}
      value={value}
      onChange={(e) => onChange(e.target.value)}
    />
  );
}

/** True once the office has asked for a code by text message, until somebody is signed in. */
export function wantsCode(error: unknown, code: string): boolean {
  return code !== "" || (!!error && problemOf(error).place === "code");
}
