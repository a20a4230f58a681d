/** The product's sign: the filled stage track. */
export function ProductSign() {
  return (
    <div>
      <svg width="92" height="12" viewBox="0 0 92 12" aria-hidden="true">
        <line x1="5" x2="87" y1="6" y2="6" stroke="var(--color-ink)" strokeWidth="1.5" />
        {[5, 32.3, 59.7, 87].map((x) => (
          <circle key={x} cx={x} cy="6" r="4.5" fill="var(--color-ink)" />
        ))}
      </svg>
      <p className="mt-2 font-plate font-semibold text-title max-md:sr-only">Bold Relay</p>
    </div>
  );
}
