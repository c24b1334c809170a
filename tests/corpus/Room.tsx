type Props = { title: string; items: Array<string> };
const first = <T,>(list: T[]): T => list[0];

export default function Room({ title, items }: Props) {
  const shown = first<string>(items) as string;
  return <figure><img data-sarvel="banner" src="../masters/gull.jpg" alt={shown} /><figcaption>{title}</figcaption></figure>;
}
