/** A small engraved name plate. Only channels wear one: it means that this can switch something. */
export function Plate({ name }: { name: string }) {
  return (
    <span className="block w-fit max-w-full truncate rounded-plate bg-plate px-2.5 py-[3px] font-plate font-semibold text-letters">
      {name}
    </span>
  );
}
