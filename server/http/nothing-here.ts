import type { NextFunction, Request, Response } from 'express';
import { Refusal } from '../refusal.ts';

export function nothingHere(_request: Request, _response: Response, next: NextFunction): void {
  next(new Refusal(404, 'There is nothing at this address.'));
}
