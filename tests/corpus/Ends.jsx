import gull from "../masters/gull.jpg";

function Card({ icon, children }) {
  return <section>{icon}{children}</section>;
}

export default function Ends({ title, a, b }) {
  const small = a < b;
  return (
    <Card icon={<img data-sarvel="badge" src="../masters/seal.png" alt="The seal" />}>
      <img data-sarvel="banner" src={gull} alt={title} style={{ border: small ? 0 : 1 }}></img>
    </Card>
  );
}
