/** The heading of a plain table: one title a column. */
export function TableHead({ titles }: { titles: readonly string[] }) {
  return (
    <thead>
      <tr className="border-ink border-b text-soft">
        {titles.map((title) => (
          <th key={title} scope="col" className="py-1.5 pr-4 font-medium font-plate">
            {title}
          </th>
        ))}
      </tr>
    </thead>
  );
}
