/** A name as tests and addresses write it. */
export const slugOf = (name: string): string => name.toLowerCase().replace(/\W+/g, '-')
