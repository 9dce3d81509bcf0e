import { useRef } from "react";

type ChooseFilesProps = {
  label: string;
  text?: string;
  /** Endings, such as ".json,.toml"; all where nothing is said. */
  accept?: string;
  isMany?: boolean;
  /** Whether a folder is chosen, with all that lies in it. */
  isFolder?: boolean;
  disabled?: boolean;
  className?: string;
  onChoose: (files: FileList) => void;
};

/** A button that opens the system's own list of files; `label` says what they are taken for. */
export function ChooseFiles({
  label,
  text = "From a file",
  accept,
  isMany = false,
  isFolder = false,
  disabled,
  className = "button",
  onChoose,
}: ChooseFilesProps) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        tabIndex={-1} // the button opens it
        multiple={isMany}
        {...(isFolder && { webkitdirectory: "" })}
        accept={accept}
        aria-label={label}
        className="sr-only"
        onChange={(e) => {
          if (e.target.files?.length) onChoose(e.target.files);
          e.target.value = ""; // the same file can be chosen again
        }}
      />
      <button
        type="button"
        className={className}
        disabled={disabled}
        onClick={() => input.current?.click()}
      >
        {text}
      </button>
    </>
  );
}
