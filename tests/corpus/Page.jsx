// <img data-sarvel="badge" src="../masters/seal.png" />
const pattern = /<img data-sarvel="badge">/g;
const text = `<img data-sarvel="badge" src="${"../masters/seal.png"}">`;

export default function Page({ items, title, a, b }) {
  if (a > b || a <b - 5) return <p>It's {pattern.source} or {text}</p>;
  return (
    <main className="page" onClick={() => a < b && b > a}>
      {/* <img data-sarvel="badge" src="../masters/seal.png" /> */}
      <img data-sarvel="banner" src="../masters/gull.jpg" alt={a < b ? title : "none > no"} className="wide" />
      {items.map((item) => (
        <img key={item} data-sarvel="badge" src="../masters/seal.png" alt={`The ${item}`} />
      ))}
    </main>
  );
}
