// A link that opens the browser's own choice of files; the same files can be chosen twice.
import { type ReactNode, useRef } from "react";

export function ChooseFiles(of: {
  name: string;
  children: ReactNode;
  onFiles: (files: File[]) => void;
  /** One picture, from the camera where there is one. */
  camera?: boolean;
}) {
  const choose = useRef<HTMLInputElement>(null);
  return (
    <>
      <button
        type="button"
        className={of.camera ? "jc-button plain" : "jc-link"}
        onClick={() => choose.current?.click()}
      >
        {of.children}
      </button>
      <input
        ref={choose}
        type="file"
        multiple={!of.camera}
        accept={of.camera ? "image/*" : undefined}
        capture={of.camera ? "environment" : undefined}
        className="jc-hidden"
        tabIndex={-1}
        aria-label={of.name}
        onChange={(e) => {
          const files = [...(e.target.files ?? [])]; // a copy: the browser's list is empty once the value is
          e.target.value = "";
          if (files.length > 0) of.onFiles(files);
        }}
      />
    </>
  );
}
