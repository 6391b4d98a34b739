export default function StepPage() {
  return null;
}
