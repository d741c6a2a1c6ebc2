/** Before the id of an audience, where else a field of the record is chosen. */
export const TO_AUDIENCE = 'audience:';
