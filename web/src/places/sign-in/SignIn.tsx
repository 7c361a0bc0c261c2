import { useForm } from 'react-hook-form';
import { zodResolver } from '@hookform/resolvers/zod';
import { useQueryClient } from '@tanstack/react-query';
import { z } from 'zod';
import { api } from '@/api/client';
import { readSession, sessionKey } from '@/api/session';
import { Button } from '@/parts/Button';
import { TextField } from '@/parts/Field';

const rules = z.object({
  email: z.string().min(1, 'Your e-mail address is needed.'),
  password: z.string().min(1, 'Your password is needed.'),
});

export function SignIn({ office }: { office: string }) {
  const client = useQueryClient();
  const form = useForm({ resolver: zodResolver(rules), defaultValues: { email: '', password: '' } });
  const { errors, isSubmitting } = form.formState;
  const submit = form.handleSubmit(async (values) => {
    try {
      await readSession();
      await api.POST('/api/sign-in', { body: values });
      client.setQueryData(sessionKey, await readSession());
    } catch (error) {
      form.setError('root', { message: (error as Error).message });
    }
  });
  return (
    <main className="mx-auto max-w-[380px] pt-[14vh]">
      <h1 className="title">Post Tide</h1>
      <p className="mb-6 border-b border-ink pb-2 text-soft">{office}</p>
      <form onSubmit={submit} noValidate>
        <TextField
          label="E-mail address"
          type="email"
          autoComplete="username"
          autoFocus
          problem={errors.email?.message}
          {...form.register('email')}
        />
        <TextField
          label="Password"
          type="password"
          autoComplete="current-password"
          problem={errors.password?.message}
          {...form.register('password')}
        />
        {errors.root && (
          <p role="alert" className="mb-3 font-semibold text-rust">
            {errors.root.message}
          </p>
        )}
        <Button kind="main" type="submit" disabled={isSubmitting}>
          Sign in
        </Button>
      </form>
    </main>
  );
}
