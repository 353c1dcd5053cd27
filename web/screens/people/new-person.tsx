import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { contactSchema } from '../../../contract/people.ts';
import { call, RequestError } from '../../data/api.ts';
import { useCatalogue } from '../../data/data.ts';
import { noteStep } from '../../data/first-steps.ts';
import { Button } from '../../parts/button.tsx';
import { TextField } from '../../parts/field.tsx';
import { Form } from '../../parts/form.tsx';

const names = ['first-name', 'last-name'];

/** Adds one contact by email address, and opens its page. */
export function NewPerson() {
  const navigate = useNavigate();
  const catalogue = useCatalogue();
  const [email, setEmail] = useState('');
  const [values, setValues] = useState<{ readonly [attribute: string]: string }>({});
  const [there, setThere] = useState<number>();
  const add = async () => {
    setThere(undefined);
    const given = Object.entries(values).filter(([, value]) => value.trim() !== '');
    try {
      const made = await call('POST', '/contacts', contactSchema, {
        email,
        values: Object.fromEntries(given.map(([id, value]) => [id, value.trim()])),
      });
      noteStep('people');
      void navigate(`/people/${made.id}`);
    } catch (error) {
      if (error instanceof RequestError && error.status === 409) setThere(idIn(error.body.current));
      throw error;
    }
  };
  return (
    <Form onSend={add}>
      {there !== undefined && (
        <Link to={`/people/${there}`} className="underline underline-offset-2">
          Open this contact
        </Link>
      )}
      <TextField
        label="Email"
        type="email"
        value={email}
        maxLength={254}
        onChange={(event) => setEmail(event.target.value)}
      />
      {names.flatMap((id) => {
        const attribute = catalogue?.get(id);
        return attribute
          ? [
              <TextField
                key={id}
                label={attribute.label}
                value={values[id] ?? ''}
                maxLength={200}
                onChange={(event) => setValues({ ...values, [id]: event.target.value })}
              />,
            ]
          : [];
      })}
      <Button look="primary" type="submit" className="self-end" disabled={email.trim() === ''}>
        Add contact
      </Button>
    </Form>
  );
}

function idIn(current: unknown): number | undefined {
  return typeof current === 'object' && current !== null && 'id' in current && typeof current.id === 'number'
    ? current.id
    : undefined;
}
