/** The narrow column of the pages before a session. */
import { ProductSign } from "../../parts/product-sign.tsx";

export function EntryPage({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <main className="mx-auto flex min-h-dvh max-w-[330px] flex-col justify-center px-4 pb-[12vh]">
      <ProductSign />
      <h1 className="mt-8 border-ink border-b pb-2 text-page">{title}</h1>
      {children}
    </main>
  );
}
