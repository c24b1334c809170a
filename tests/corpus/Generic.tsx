const first = <T,>(list: T[]): T => list[0];
const pair = <const A, B extends string>(a: A, b: B): [A, B] => [a, b];
const Img = ({ label }: { label: string }) => <b>{label}</b>;

export default function Generic({ title, items }: { title: string; items: string[] }) {
  const shown = pair(first<string>(items), "x")[0];
  return (
    <main>
      <Img label={title} data-sarvel="badge" src="../masters/seal.png" />
      <img data-sarvel="banner" src="../masters/gull.jpg" alt={shown} />
    </main>
  );
}
