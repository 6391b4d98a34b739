import { SettingsView } from '@/features/settings/SettingsView';

export const metadata = { title: 'Settings - Kinkajou' };

export default function SettingsPage() {
  return <SettingsView />;
}
