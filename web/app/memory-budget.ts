/** Memory a template may take on this machine until budgets can be set. */
export const MEMORY_BUDGET_BYTES = 2 * 2 ** 30;
