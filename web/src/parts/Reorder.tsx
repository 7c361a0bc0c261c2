import type { ReactNode } from 'react';
import { closestCenter, DndContext, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';

interface ReorderProps {
  ids: (string | number)[];
  /** Takes what stands at one place to another. */
  onMove: (from: number, to: number) => void;
  children: ReactNode;
}

/** Rows whose order is changed by dragging them, or by the arrow keys on their handle. */
export function Reorder({ ids, onMove, children }: ReorderProps) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={({ active, over }) => {
        if (over && active.id !== over.id) onMove(ids.indexOf(active.id), ids.indexOf(over.id));
      }}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  );
}

interface RowProps {
  id: string | number;
  /** What it is called, for the handle. */
  name: string;
  index: number;
  onMove: (from: number, to: number) => void;
  disabled?: boolean;
  className?: string;
  children: (handle: ReactNode) => ReactNode;
}

/** One row of a table; its handle is given to whatever shows the row. */
export function ReorderRow({
  id,
  name,
  index,
  onMove,
  disabled = false,
  className = '',
  children,
}: RowProps) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } =
    useSortable({
      id,
      disabled,
    });
  const handle = disabled ? null : (
    <button
      {...attributes}
      {...listeners}
      ref={setActivatorNodeRef}
      role="button"
      aria-roledescription={undefined}
      aria-describedby={undefined}
      aria-label={`Move ${name}: drag it, or press the up or down arrow`}
      title="Drag, or press ↑ ↓"
      className="cursor-grab touch-none px-0.5 text-soft hover:text-ink"
      onKeyDown={(e) => {
        if (e.key !== 'ArrowUp' && e.key !== 'ArrowDown') return;
        e.preventDefault();
        onMove(index, index + (e.key === 'ArrowUp' ? -1 : 1));
      }}
    >
      ↕
    </button>
  );
  return (
    <tr
      ref={setNodeRef}
      style={{
        transform: CSS.Translate.toString(transform),
        transition,
        position: 'relative',
        zIndex: isDragging ? 1 : undefined,
      }}
      className={`${className} ${isDragging ? 'bg-sea-wash' : ''}`}
    >
      {children(handle)}
    </tr>
  );
}
