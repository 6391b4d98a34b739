import { ShelfView } from '@/features/shelf/ShelfView';

export const metadata = { title: { absolute: 'Shelf - Kinkajou' } };

export default function Page() {
  return <ShelfView />;
}
